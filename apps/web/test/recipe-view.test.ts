import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { Condition, conditionLeaves } from '@wembrel/core/decisions/recipe/condition';
import { Lay } from '@wembrel/core/decisions/recipe/look';
import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { isForSheet } from '@wembrel/core/decisions/recipe/recipe-use';
import { highsOfModel } from '@wembrel/core/rays/pairing/highs-of-model';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { joinLive, splitLive } from '../src/contract/live-bytes.ts';
import { transitionOf, variantOf } from '../src/views/bake/recipe/cell-recipes.ts';
import { type Decal, decalFrame, movedDecal, scaledDecal, turnedDecal } from '../src/views/bake/recipe/decal.ts';
import { erased, marked, strokesIn, withStrokes } from '../src/views/bake/recipe/places.ts';
import {
  shownRecipe,
  underOneCondition,
  withMovedLine,
  withNewLine,
  withNewRecipe,
  withRecipe,
} from '../src/views/bake/recipe/recipe-edits.ts';
import { andAlso, CONDITIONS, NEW_LINES, newCondition, orElse } from '../src/views/bake/recipe/recipe-options.ts';
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
