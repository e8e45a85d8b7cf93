import { expect, test } from 'vitest';
import { marginForMip, protectedMip } from '../src/decisions/sheets.ts';
import { spread } from '../src/plan/assign.ts';
import { type Routing, route, slotReader } from '../src/plan/route.ts';
import { readModel } from '../src/scene/model.ts';
import { buildModel, decide, imageKeyOfName, type PartSpec, PICTURES, quad, type SlotSpec } from './build.ts';

const part = (slot: string, more: Partial<PartSpec> = {}): PartSpec => ({
  ...quad(0, 0, 1, 1, 0, 0, 1, 1),
  slot,
  ...more,
});
const go = (slots: SlotSpec[], parts: PartSpec[], more = {}) =>
  route([buildModel(slots, parts)], decide(more), PICTURES);
const slot = (name: string, more: Partial<SlotSpec> = {}): SlotSpec => ({ name, baseColor: name, ...more });

test('faces beyond the edge of a clamped texture stand against cutting it; within it they do not', () => {
  const over = (v: number) => {
    const model = buildModel([slot('a')], [{ ...quad(0, 0, 3, v, 0, 0, 3, v), slot: 'a' }]);
    model.document.getRoot().listMaterials()[0].getBaseColorTextureInfo()?.setWrapT(33071);
    return slotReader(readModel('m', model.document, imageKeyOfName), 0, PICTURES)(0)?.uncut;
  };
  expect(over(1)).toBeNull();
  expect(over(2)).toMatch(/reach beyond/);
});

test('a slot named by the user stays apart, with that reason', () => {
  const routing = go([slot('a'), slot('glass')], [part('a'), part('glass')], { keepApart: ['glass'] });
  expect(routing.materials.map((material) => material.name)).toEqual(['a']);
  expect(routing.keptApart).toMatchObject([{ name: 'glass', code: 'named' }]);
});

test('materials of other alpha mode or sidedness never share an output material', () => {
  const slots = [
    slot('a'),
    slot('b'),
    slot('leaf', { alphaMode: 'MASK' }),
    slot('fern', { alphaMode: 'MASK' }),
    slot('cloth', { doubleSided: true }),
  ];
  // One mesh each, on a sheet that takes less memory than their own textures.
  const routing = go(
    slots,
    slots.map((slot) => part(slot.name)),
    { mergeAll: false, size: 64 },
  );
  const classes = new Map(routing.materials.map((material) => [material.name, material.classKey]));
  expect(classes.get('a')).toBe(classes.get('b'));
  expect(classes.get('leaf')).toBe(classes.get('fern'));
  expect(classes.get('a')).not.toBe(classes.get('leaf'));
  expect(classes.get('cloth')).not.toBe(classes.get('a'));
});

test('repeats up to the limit are baked in, beyond it the slot is kept apart', () => {
  const tiled = (n: number) => part('a', { uvs: quad(0, 0, 1, 1, 0, 0, n, 1).uvs });
  expect(go([slot('a')], [tiled(4)]).keptApart).toEqual([]);
  expect(go([slot('a')], [tiled(5)]).keptApart).toMatchObject([{ code: 'repeats' }]);
  expect(go([slot('a')], [tiled(5)], { maxRepeats: 6 }).keptApart).toEqual([]);
});

test('a textured part without UVs is kept apart and says so; without textures it needs none', () => {
  expect(go([slot('a')], [part('a', { uvs: undefined })]).keptApart).toMatchObject([{ code: 'no-uvs' }]);
  expect(go([{ name: 'a' }], [part('a', { uvs: undefined })]).materials).toHaveLength(1);
});

function spreadMaterials(routing: Routing, areas: number[], room: number[]) {
  const groups = routing.materials.map((material, i) => ({ area: areas[i], sheet: material.sheet, allowed: [0, 1] }));
  const sheets = spread(groups, room);
  return routing.materials.map((material, i) => [material.name, sheets[i]]);
}

test('materials are spread over sheets by area', () => {
  const slots = ['a', 'b', 'c', 'd'].map((name) => slot(name));
  const routing = go(
    slots,
    slots.map((slot) => part(slot.name)),
  );
  expect(spreadMaterials(routing, [8, 5, 4, 1], [64, 64]).map((material) => material[1])).toEqual([0, 1, 1, 0]);
  const byHand = go(
    slots,
    slots.map((slot) => part(slot.name)),
    { sheets: 2, routes: { a: '2', d: '2' } },
  );
  expect(spreadMaterials(byHand, [8, 5, 4, 1], [64, 64])).toEqual([
    ['a', 1],
    ['b', 0],
    ['c', 0],
    ['d', 1],
  ]);
});

test('the mip that a margin protects', () => {
  expect([2, 3, 4, 12, 23, 24].map(protectedMip)).toEqual([-1, 0, 0, 2, 2, 3]);
  for (let k = 0; k < 6; k++) expect(protectedMip(marginForMip(k))).toBe(k);
});
