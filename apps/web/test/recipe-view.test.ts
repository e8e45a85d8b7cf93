import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { NodeIO } from '@gltf-transform/core';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { Condition, conditionLeaves } from '@wembrel/core/decisions/recipe/condition';
import { Lay } from '@wembrel/core/decisions/recipe/look';
import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { isForSheet } from '@wembrel/core/decisions/recipe/recipe-use';
import { highsOfModel } from '@wembrel/core/rays/pairing/highs-of-model';
import { validateGltf } from '@wembrel/runner/write/validate';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { joinLive, splitLive } from '../src/contract/live-bytes.ts';
import type { LiveMaps } from '../src/stage/live-sheet.ts';
import { cellGlb } from '../src/views/bake/recipe/cell-glb.ts';
import { cellAt, joinedMaps } from '../src/views/bake/recipe/cell-neighbours.ts';
import { transitionOf, variantOf } from '../src/views/bake/recipe/cell-recipes.ts';
import { type Decal, decalFrame, movedDecal, scaledDecal, turnedDecal } from '../src/views/bake/recipe/decal.ts';
import { nearerEndAt, stretchBetween, withStretch } from '../src/views/bake/recipe/measured-in.ts';
import { erased, marked, strokesIn, withStrokes } from '../src/views/bake/recipe/places.ts';
import {
  shownRecipe,
  underOneCondition,
  withMovedLine,
  withNewLine,
  withNewRecipe,
  withRecipe,
} from '../src/views/bake/recipe/recipe-edits.ts';
import { recipeMatches } from '../src/views/bake/recipe/recipe-matches.ts';
import { andAlso, CONDITIONS, NEW_LINES, newCondition, orElse } from '../src/views/bake/recipe/recipe-options.ts';
import { measuredAt } from '../src/views/bake/recipe/use-measured.ts';
import { patternOf } from '../src/views/bake/recipe/use-recipe-actions.ts';
import { WORN } from '../src/views/bake/recipe/worn.ts';

describe('what is sent while a recipe is tuned', () => {
  test('comes out as it went in, however long the blocks are', () => {
    fc.assert(
      fc.property(fc.jsonValue(), fc.array(fc.uint8Array({ maxLength: 300 }), { maxLength: 5 }), (head, blocks) => {
        const found = splitLive(joinLive(head, blocks));
        expect(found.head).toEqual(JSON.parse(JSON.stringify(head)));
        expect(found.blocks.map((b) => [...b])).toEqual(blocks.map((b) => [...b]));
      }),
      { numRuns: 50 },
    );
  });

  test('what is cut off is told, not shown', () => {
    const whole = joinLive({ a: 1 }, [new Uint8Array(20)]);
    expect(() => splitLive(whole.subarray(0, whole.length - 3))).toThrow('cut off');
  });
});

describe('what can be chosen', () => {
  test.each(CONDITIONS.map(({ of }) => of))('a new condition "%s" is one that recipes may have', (of) => {
    expect(Condition.parse(newCondition(of))).toMatchObject({ of });
  });

  test.each(NEW_LINES.map((line) => [line.label, line] as const))(
    '"%s" makes a line with a name of its own',
    (_, line) => {
      const once = withNewLine(WORN, line);
      const twice = withNewLine(once.recipe, line);
      expect(Recipe.parse(twice.recipe).lines).toHaveLength(WORN.lines.length + 2);
      expect(twice.name).not.toBe(once.name);
    },
  );

  test('conditions join to one list each way', () => {
    const [a, b, c] = (['convex', 'ao', 'noise'] as const).map(newCondition);
    expect(andAlso(andAlso(a, b), c)).toEqual({ all: [a, b, c], by: 'product' });
    expect(orElse(orElse(a, b), c)).toEqual({ any: [a, b, c] });
    expect(andAlso(orElse(a, b), c)).toEqual({ all: [{ any: [a, b] }, c], by: 'product' });
  });
});

describe('lines that are tried', () => {
  const names = WORN.lines.map(({ name }) => name);
  const laid = (recipe: Recipe) => recipe.lines.flatMap(({ name, off }) => (off ? [] : [name]));

  test('alone, without, up to, before', () => {
    const line = names[2];
    expect(laid(shownRecipe(WORN, { kind: 'all' }))).toEqual(names);
    expect(laid(shownRecipe(WORN, { kind: 'before' }))).toEqual([]);
    expect(laid(shownRecipe(WORN, { kind: 'alone', line }))).toEqual([line]);
    expect(laid(shownRecipe(WORN, { kind: 'without', line }))).toEqual(names.filter((name) => name !== line));
    expect(laid(shownRecipe(WORN, { kind: 'up-to', line }))).toEqual(names.slice(0, 3));
    // A line that has gone meanwhile hides nothing.
    expect(laid(shownRecipe(WORN, { kind: 'alone', line: 'gone' }))).toEqual(names);
  });

  test('a line that is off can be tried alone, and is off otherwise', () => {
    const off = { ...WORN, lines: WORN.lines.map((line, i) => ({ ...line, off: i === 1 })) };
    expect(laid(shownRecipe(off, { kind: 'alone', line: names[1] }))).toEqual([names[1]]);
    expect(laid(shownRecipe(off, { kind: 'up-to', line: names[2] }))).toEqual([names[0], names[2]]);
  });

  test('moved lines stay the same lines, and go nowhere beyond the ends', () => {
    expect(
      withMovedLine(WORN, names[0], 1)
        .lines.map(({ name }) => name)
        .slice(0, 2),
    ).toEqual([names[1], names[0]]);
    expect(withMovedLine(WORN, names[0], -1)).toBe(WORN);
    expect(withMovedLine(WORN, names.at(-1) as string, 1)).toBe(WORN);
  });

  test('several lines get one condition that they share, beside their own', () => {
    const shared = underOneCondition(WORN, new Set(names.slice(1, 3)), newCondition('facing'), 'facing');
    const parsed = Recipe.parse(shared);
    expect(parsed.lines.map(({ where }) => (where ? conditionLeaves(where).uses : []))).toEqual([
      [],
      ['facing'],
      ['facing'],
      [],
      [],
    ]);
    expect(conditionLeaves(parsed.lines[2].where as Condition).singles).toHaveLength(2);
  });
});

describe('recipes of a project', () => {
  test('get a name of their own, are for the model in sight, and for no sheet of a merge until somebody says so', () => {
    const first = withNewRecipe(MergeDecisions.parse({}), 'a.glb', WORN);
    const second = withNewRecipe(first.decisions, 'b.glb', WORN);
    expect([first.name, second.name]).toEqual(['Worn paint', 'Worn paint 2']);
    expect(second.decisions.recipes.map(({ models }) => models)).toEqual([['a.glb'], ['b.glb']]);
    expect(second.decisions.recipes.some((use) => isForSheet(use, 'sheet'))).toBe(false);
    const changed = withRecipe(second.decisions, second.name, (recipe) => ({ ...recipe, lines: [] }));
    expect(changed.recipes.map(({ recipe }) => recipe.lines.length)).toEqual([WORN.lines.length, 0]);
  });

  test('a model has the high-polys of its own pairings', () => {
    const object = (path: string) => ({ path, name: 'x' });
    const pairings = [
      { high: [object('high.glb'), object('low.glb')], low: [object('low.glb')] },
      { high: [object('other.glb')], low: [object('b.glb')] },
    ];
    expect([...highsOfModel(pairings, 'low.glb')]).toEqual(['high.glb']);
    expect([...highsOfModel(pairings, 'high.glb')]).toEqual([]);
  });
});

describe('places that are marked', () => {
  const way = () => {
    let points = marked([], [0, 0, 0], 20, false);
    for (let i = 1; i <= 5; i++) points = marked(points, [i * 0.01, 0, 0], 20, true);
    return points;
  };

  test('points of one way are joined; those that hardly moved are left out', () => {
    expect(way().map(({ joined }) => joined)).toEqual([false, true, true, true, true, true]);
    expect(marked(way(), [0.0501, 0, 0], 20, true)).toHaveLength(6);
    expect(marked(way(), [0.0501, 0, 0], 20, false)).toHaveLength(7);
  });

  test('what is taken away in the middle leaves two ways', () => {
    const left = erased(way(), [0.02, 0, 0], 5);
    expect(left.map(({ joined }) => joined)).toEqual([false, true, false, true, true]);
    expect(erased(way(), [1, 0, 0], 5)).toEqual(way());
  });

  test('they join what a line says already, change where they stand, and go with their last point', () => {
    const ao = newCondition('ao');
    const both = withStrokes(ao, way());
    expect(strokesIn(both)?.points).toHaveLength(6);
    expect(Condition.parse(both)).toMatchObject({ all: [{ of: 'ao' }, { of: 'strokes' }] });
    expect(strokesIn(withStrokes(both, way().slice(0, 2)))?.points).toHaveLength(2);
    expect(withStrokes(both, [])).toEqual(ao);
    expect(withStrokes(withStrokes(null, way()), [])).toBeNull();
  });
});

describe('a decal on the model', () => {
  const decal = Lay.parse({
    by: 'side',
    at: [0, 1, 0],
    direction: [0, 0, 1],
    width: 0.4,
    height: 0.2,
    depth: 0.1,
  }) as Decal;

  test('its frame is as large as it is, wherever it looks', () => {
    fc.assert(
      fc.property(
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -1, max: 1, noNaN: true }))),
        fc.integer({ min: -180, max: 180 }),
        (direction, turn) => {
          fc.pre(Math.hypot(...direction) > 0.1);
          const { ends } = decalFrame({ ...decal, direction: direction as [number, number, number], turn }, '#fff');
          const length = (edge: number) =>
            Math.hypot(...[0, 1, 2].map((k) => ends[edge * 6 + 3 + k] - ends[edge * 6 + k]));
          expect(length(0)).toBeCloseTo(0.4, 9);
          expect(length(1)).toBeCloseTo(0.2, 9);
          expect(length(8)).toBeCloseTo(0.2, 9);
        },
      ),
      { numRuns: 50 },
    );
  });

  test('is moved with the surface, scaled to the pointer in its proportions, and turned towards it', () => {
    expect(movedDecal(decal, [1, 2, 3], [0, 2, 0])).toMatchObject({ at: [1, 2, 3], direction: [0, 1, 0], width: 0.4 });
    expect(scaledDecal(decal, [0.4, 1, 0])).toMatchObject({ width: 0.8, height: 0.4 });
    expect(turnedDecal(decal, [0, 2, 0]).turn).toBe(0);
    expect(turnedDecal(decal, [-1, 1, 0]).turn).toBe(90);
    expect(Math.abs(turnedDecal(decal, [0, 0, 0]).turn)).toBe(180);
  });
});

describe('cells that follow from one', () => {
  const stones = Recipe.parse({
    recipe: 1,
    name: 'stones',
    conditions: { worn: { of: 'noise', size: 40, seed: 7 } },
    lines: [
      { name: 'all', what: { look: { from: 'stock', look: 'brick' }, lay: { by: 'box', breakUp: { seed: 3 } } } },
      { name: 'moss', what: { look: { from: 'stock', look: 'moss' } }, where: { use: 'worn' } },
    ],
  });

  test('a variant differs in every seed and in nothing else', () => {
    const variant = variantOf(stones);
    const seeds = (value: unknown) => JSON.stringify(value).match(/"seed":\d+/g);
    expect(seeds(variant)).toEqual(seeds(stones)?.map((text) => `"seed":${Number(text.slice(7)) + 101}`));
    const plain = (value: object) => JSON.stringify({ ...value, name: '' }).replace(/"seed":\d+/g, '');
    expect(plain(variant)).toBe(plain(stones));
  });

  test('a transition has the lines of both, those of the other beyond one border, and is a recipe', () => {
    const mixed = Recipe.parse(transitionOf(stones, { ...stones, name: 'other' }, 2));
    expect(mixed.lines.map(({ name }) => name)).toEqual(['all', 'moss', 'all 2', 'moss 2']);
    expect(mixed.conditions['beyond the border']).toMatchObject({ of: 'position', axis: 'x', from: 1000 });
    const uses = mixed.lines.map(({ where }) => (where ? conditionLeaves(where).uses : []));
    expect(uses).toEqual([[], ['worn'], ['beyond the border'], ['worn', 'beyond the border']]);
  });

  test('conditions that both share by a name stay those of each', () => {
    const other = { ...stones, name: 'other', conditions: { worn: newCondition('facing') } };
    const mixed = Recipe.parse(transitionOf(stones, other, 2));
    const ofLast = conditionLeaves(mixed.lines[3].where as Condition).uses;
    expect(ofLast.map((name) => mixed.conditions[name])).toContainEqual(newCondition('facing'));
    expect(mixed.conditions.worn).toEqual(stones.conditions.worn);
  });

  test('pictures that are dropped together are one look by what their names share', () => {
    expect(patternOf(['stone_basecolor.png', 'stone_normal.png'])).toBe('stone_*');
    expect(patternOf(['label.png'])).toBe('label.png');
    expect(patternOf(['a_color.png', 'b_color.png'])).toBe('a_color.png');
  });
});

describe('the stretch of a condition', () => {
  const measured = (more: object) =>
    Condition.parse({ of: 'facing', direction: [0, 1, 0], ...more }) as Parameters<typeof nearerEndAt>[0];

  test('is between two values, whichever was met first', () => {
    expect(stretchBetween(measured({ to: 30, soft: 5 }), 61.234, 12.345)).toMatchObject({
      from: 12.3,
      to: 61.2,
      soft: 5,
    });
  });

  test('a click moves the end that is nearer; an open end stays open', () => {
    expect(nearerEndAt(measured({ from: 10, to: 50 }), 20)).toMatchObject({ from: 20, to: 50 });
    expect(nearerEndAt(measured({ from: 10, to: 50 }), 49)).toMatchObject({ from: 10, to: 49 });
    expect(nearerEndAt(measured({ from: 10 }), 80)).toMatchObject({ from: 80, to: null });
    expect(nearerEndAt(measured({ to: 10 }), 80)).toMatchObject({ from: null, to: 80 });
  });

  test('is found within others, and alone is changed', () => {
    const where = Condition.parse({
      all: [{ of: 'slot', names: ['Wood'] }, { not: { of: 'facing', direction: [0, 1, 0], to: 30 } }],
    });
    const changed = withStretch(where, (value) => ({ ...value, to: 45 }));
    expect(changed).toEqual(
      Condition.parse({
        all: [{ of: 'slot', names: ['Wood'] }, { not: { of: 'facing', direction: [0, 1, 0], to: 45 } }],
      }),
    );
    const named = Condition.parse({ of: 'slot', names: ['Wood'] });
    expect(withStretch(named, () => measured({ to: 1 }))).toBe(named);
  });

  test('values are read where they are measured, or within two texels of it', () => {
    const side = 8;
    const texels = new Float32Array(side * side).fill(Number.NaN);
    texels[3 * side + 3] = 7;
    const at = (x: number, y: number) => measuredAt(texels, side, [(x + 0.5) / side, (y + 0.5) / side]);
    expect([at(3, 3), at(5, 3), at(3, 1), at(6, 3), at(0, 0)]).toEqual([7, 7, 7, null, null]);
    // Places beyond a repeat are the same ones.
    expect(measuredAt(texels, side, [1 + 3.5 / side, -1 + 3.5 / side])).toBe(7);
  });
});

describe('cells that lie around one', () => {
  const around = { left: 'L', right: 'R', above: 'A', below: null };
  test('a column goes before a row, and where nothing is said the cell lies beside itself', () => {
    const table = [-1, 0, 1].map((dy) => [-1, 0, 1].map((dx) => cellAt('own', around, dx, dy)));
    expect(table).toEqual([
      ['L', 'A', 'R'],
      ['L', 'own', 'R'],
      ['L', 'own', 'R'],
    ]);
  });

  const cell = (value: number, normal: boolean): LiveMaps => ({
    width: 2,
    height: 1,
    baseColor: Uint8Array.from([value, 0, 0, 255, value + 1, 0, 0, 255]),
    orm: new Uint8Array(6).fill(value),
    normal: normal ? new Uint8Array(6).fill(value) : null,
    emissive: null,
    emissiveStrength: 1,
  });

  test('all maps of them become one sheet, row by row', () => {
    const sheet = joinedMaps(cell(10, false), { left: cell(20, true), right: null, above: null, below: null }, 3);
    expect([sheet.width, sheet.height, sheet.emissive]).toEqual([6, 3, null]);
    const red = Array.from({ length: 18 }, (_, i) => sheet.baseColor[i * 4]);
    expect(red.slice(6, 12)).toEqual([20, 21, 10, 11, 10, 11]);
    // One without normals is flat.
    expect([...(sheet.normal as Uint8Array).subarray(0, 9)]).toEqual([20, 20, 20, 20, 20, 20, 128, 128, 255]);
  });

  test('the square of ground is read as what it is', async () => {
    const document = await new NodeIO().readBinary(cellGlb([3, 2]));
    const [primitive] = document.getRoot().listMeshes()[0].listPrimitives();
    expect(primitive.getMaterial()?.getName()).toBe('wembrel-recipe');
    const positions = primitive.getAttribute('POSITION')?.getArray() as Float32Array;
    expect([Math.max(...positions), Math.min(...positions)]).toEqual([1.5, -1.5]);
    // Its faces look up.
    const [a, b, c] = [...(primitive.getIndices()?.getArray() ?? [])];
    const [ax, , az] = positions.subarray(a * 3);
    const [bx, , bz] = positions.subarray(b * 3);
    const [cx, , cz] = positions.subarray(c * 3);
    expect((bz - az) * (cx - ax) - (bx - ax) * (cz - az)).toBeGreaterThan(0);
    const file = join(mkdtempSync(join(tmpdir(), 'wembrel-cell-')), 'cell.glb');
    writeFileSync(file, cellGlb([3, 2]));
    expect(await validateGltf(file)).toEqual([]);
  });
});

describe('what a recipe would find on each model', () => {
  const survey = {
    models: [
      { path: 'set/bench.glb', parts: [{ name: 'seat' }] },
      { path: 'set/lamp.glb', parts: [{ name: 'post' }] },
    ],
    slots: [
      { model: 0, name: 'Wood' },
      { model: 0, name: 'Iron' },
      { model: 1, name: 'Iron' },
    ],
  } as unknown as Parameters<typeof recipeMatches>[1];
  const use = (models: string[], lines: object[]) =>
    ({
      recipe: Recipe.parse({ recipe: 1, name: 'r', conditions: { metal: { of: 'slot', names: ['I*'] } }, lines }),
      models,
      sheets: [],
      cell: null,
    }) as unknown as Parameters<typeof recipeMatches>[0];
  const line = (name: string, where: object, more = {}) => ({
    name,
    what: { change: 'darken', by: 0.1 },
    where,
    ...more,
  });

  test('names that are there, and names that are not, by line; what fits anything and what is off is no name', () => {
    const lines = [
      line('oil', { of: 'slot', names: ['Wood', '*'] }),
      line('rust', { use: 'metal' }),
      line('seat', { all: [{ of: 'part', names: ['seat'] }, { not: { of: 'slot', names: ['Glass'] } }] }),
      line('gone', { of: 'slot', names: ['Paper'] }, { off: true }),
    ];
    const [bench, lamp] = recipeMatches(use(['lamp*'], lines), survey);
    expect([bench.meant, lamp.meant]).toEqual([false, true]);
    expect(bench.found).toEqual([
      { kind: 'slot', name: 'Wood' },
      { kind: 'slot', name: 'Iron' },
      { kind: 'part', name: 'seat' },
    ]);
    expect(lamp.found).toEqual([{ kind: 'slot', name: 'Iron' }]);
    expect(lamp.missing.map(({ pattern, line: of }) => `${pattern} ${of}`)).toEqual([
      'Wood oil',
      'seat seat',
      'Glass seat',
    ]);
  });
});
