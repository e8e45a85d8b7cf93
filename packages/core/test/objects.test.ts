import type { Document } from '@gltf-transform/core';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { fitsObject, objectPatterns } from '../src/decisions/object-patterns.ts';
import { joinParts } from '../src/handover/join.ts';
import { route } from '../src/plan/route.ts';
import { objectsOf, sheetForEachObject } from '../src/plan/sheet-for-each.ts';
import { separateObjects } from '../src/repair/separate-objects.ts';
import { type Model, readModel } from '../src/scene/model.ts';
import { buildModel, decide, imageKeyOfName, PICTURES, quad } from './build.ts';

/** A model with parts of some slots, their nodes called as said, below one called "yard". */
function yard(parts: readonly { object: string; slot: string }[], slots = ['Wood', 'Iron']): Model {
  const model = buildModel(
    slots.map((name) => ({ name, baseColor: name })),
    parts.map(({ slot }, i) => ({ ...quad(i, 0, 1, 1, 0.1, 0.1, 0.2, 0.2), slot })),
  );
  const { document } = model;
  const [scene] = document.getRoot().listScenes();
  const root = document.createNode('yard');
  document
    .getRoot()
    .listNodes()
    .filter((node) => node !== root)
    .forEach((node, i) => {
      scene.removeChild(node);
      root.addChild(node.setName(parts[i].object));
      node.getMesh()?.setName('');
    });
  scene.addChild(root);
  return reread(document);
}

const reread = (document: Document): Model => readModel('props/yard.glb', document, imageKeyOfName);

/** Slot of each drawn object, "object: slot". */
const slotsOf = (model: Model): string[] =>
  model.parts.flatMap((part) => part.instances.map(({ node }) => `${node.getName()}: ${model.slots[part.slot].name}`));

describe('objects by pattern', () => {
  test('a name of its own or above it fits, in a model that fits what stands before the last /', () => {
    const names = ['yard', 'bench', 'legs'];
    const fits = (pattern: string) => fitsObject(pattern, 'props/yard.glb', names);
    expect(['bench', 'be*', 'yard', 'legs', 'yard.glb/bench', 'yard/leg*', 'props/yard.glb/*'].map(fits)).not.toContain(
      false,
    );
    expect(['Bench', 'ben', 'shop.glb/bench', 'props/bench', ''].map(fits)).not.toContain(true);
    expect(fitsObject('a/b', 'm.glb', ['a/b'])).toBe(true);
  });

  test('patterns come from rules for objects and from what alone is merged, each once', () => {
    const rule = (pattern: string) => ({ when: { kind: 'object', pattern } });
    expect(objectPatterns({ only: ['a'], rules: [rule('b'), { when: { kind: 'flat' } }, rule('a')] })).toEqual([
      'a',
      'b',
    ]);
  });
});

describe('objects get slots of their own', () => {
  const PARTS = [
    { object: 'bench', slot: 'Wood' },
    { object: 'bench legs', slot: 'Iron' },
    { object: 'lamp', slot: 'Iron' },
    { object: 'crate', slot: 'Wood' },
  ];

  test('what they share with others is split; a slot that is theirs alone keeps its name', () => {
    const { document } = yard(PARTS);
    expect(separateObjects(document, 'props/yard.glb', ['bench*'])).toBe(2);
    expect(slotsOf(reread(document))).toEqual([
      'bench: Wood (bench)',
      'bench legs: Iron (bench)',
      'lamp: Iron',
      'crate: Wood',
    ]);
    const whole = yard(PARTS.filter(({ object }) => object !== 'lamp')).document;
    expect(separateObjects(whole, 'props/yard.glb', ['bench*'])).toBe(1);
    expect(slotsOf(reread(whole))).toContain('bench legs: Iron');
  });

  test('a mesh that two objects draw is copied, its arrays shared', () => {
    const { document } = yard(PARTS.slice(0, 1));
    const [mesh] = document.getRoot().listMeshes();
    const [root] = document.getRoot().listScenes()[0].listChildren();
    root.addChild(document.createNode('stool').setMesh(mesh));
    const accessors = document.getRoot().listAccessors().length;
    expect(separateObjects(document, 'props/yard.glb', ['stool'])).toBe(1);
    const model = reread(document);
    expect(slotsOf(model)).toEqual(['bench: Wood', 'stool: Wood (stool)']);
    expect(document.getRoot().listAccessors()).toHaveLength(accessors);
    expect(model.parts[0].positions.buffer).toBe(model.parts[1].positions.buffer);
  });

  test('whatever the patterns: every slot then belongs to objects that fit the same of them, and nothing else changes', () => {
    const object = fc.constantFrom('bench', 'lamp', 'crate', 'bin');
    const parts = fc.array(fc.record({ object, slot: fc.constantFrom('Wood', 'Iron') }), {
      minLength: 1,
      maxLength: 8,
    });
    const patterns = fc.uniqueArray(fc.constantFrom('bench', 'b*', 'lamp', 'yard/*', 'none'), { maxLength: 3 });
    fc.assert(
      fc.property(parts, patterns, (list, wanted) => {
        const { document } = yard(list);
        separateObjects(document, 'props/yard.glb', wanted);
        const model = reread(document);
        expect(model.parts.map((part) => part.instances[0].node.getName())).toEqual(list.map((part) => part.object));
        const fits = new Map<number, string>();
        model.parts.forEach((part, i) => {
          const own = JSON.stringify(
            wanted.map((pattern) => fitsObject(pattern, 'props/yard.glb', ['yard', list[i].object])),
          );
          expect(fits.get(part.slot) ?? own).toBe(own);
          fits.set(part.slot, own);
          expect(model.slots[part.slot].look.baseColor?.image).toBe(list[i].slot);
        });
        expect(new Set(model.slots.map((slot) => slot.name)).size).toBe(model.slots.length);
      }),
    );
  });

  test('only chosen objects are merged, and a rule sends an object to its sheet', () => {
    const { document } = yard(PARTS);
    separateObjects(document, 'props/yard.glb', ['bench*', 'lamp']);
    const models = [reread(document)];
    const only = route(models, decide({ only: ['bench*', 'lamp'] }), PICTURES);
    expect(only.keptApart.map(({ name, code, reason }) => [name, code, reason])).toEqual([
      ['Wood', 'not-chosen', 'only bench* and lamp are merged'],
    ]);
    const rules = [{ id: '1', when: { kind: 'object' as const, pattern: 'lamp' }, to: '2' }];
    const ruled = route(models, decide({ sheets: 2, rules }), PICTURES);
    const lamp = ruled.materials.find((material) => material.name.startsWith('Iron (lamp'));
    expect(lamp?.sheet).toBe(1);
  });
});

describe('a sheet for each object', () => {
  const slot = (names: string[][], area: number, path = 'yard.glb') => ({
    path,
    objects: names,
    look: `${names} ${area}`,
    islands: [{ key: '1', area }],
  });

  test('objects stand below what all of a model have in common; those of one name are one', () => {
    const slots = [
      slot([['root', 'yard', 'bench', 'legs']], 900),
      slot([['root', 'yard', 'lamp']], 100),
      slot([['root', 'yard', 'bench', 'seat']], 400),
    ];
    expect(objectsOf(slots)).toEqual([
      { path: 'yard.glb', name: 'bench', texels: 1300 },
      { path: 'yard.glb', name: 'lamp', texels: 100 },
    ]);
    expect(objectsOf([slot([['only']], 4)])).toEqual([{ path: 'yard.glb', name: 'only', texels: 4 }]);
  });

  test('sheets are called after objects in any script, each name once, as large as needed; rules lead to them', () => {
    const slots = [slot([['Bench']], 200 ** 2), slot([['bench']], 4), slot([['標識/1']], 4), slot([['!']], 4)];
    const { sheets, rules } = sheetForEachObject(decide(), slots);
    expect(sheets.map(({ name, size }) => [name, size])).toEqual([
      ['object', 64],
      ['bench', 64],
      ['Bench 2', 256],
      ['標識_1', 64],
    ]);
    expect(rules.map(({ when, to }) => [when, to])).toEqual(
      ['!', 'bench', 'Bench', '標識/1'].map((pattern, i) => [{ kind: 'object', pattern }, String(i + 1)]),
    );
  });

  test('objects of several models are told apart by their models; too many are refused in a sentence', () => {
    const { rules } = sheetForEachObject(decide(), [slot([['a']], 4), slot([['a']], 4, 'other.glb')]);
    expect(rules.map(({ when }) => when.kind === 'object' && when.pattern)).toEqual(['other.glb/a', 'yard.glb/a']);
    const many = Array.from({ length: 65 }, (_, i) => slot([[`o${i}`]], 4));
    expect(() => sheetForEachObject(decide(), many)).toThrow('there are 65 objects, and a plan has at most 64 sheets');
  });
});

describe('a joined object', () => {
  test('keeps the name that all its parts stood under, and is told apart where something of it stays', () => {
    const parts = ['a', 'b'].map((object) => ({ object, slot: 'Wood' }));
    const names = (document: Document) =>
      document
        .getRoot()
        .listNodes()
        .map((node) => node.getName());
    const all = yard(parts).document;
    expect(joinParts(all, [])).toBe(1);
    expect(names(all)).toEqual(['yard']);
    const some = yard([...parts, { object: 'c', slot: 'Wood' }]).document;
    expect(joinParts(some, ['c'])).toBe(1);
    expect(names(some).sort()).toEqual(['c', 'yard', 'yard joined']);
  });
});
