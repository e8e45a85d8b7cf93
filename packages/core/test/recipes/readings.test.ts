import { Condition } from '@wembrel/core/decisions/recipe/condition';
import type { MeasuredCondition } from '@wembrel/core/recipes/conditions/measure';
import { NO_INPUTS } from '@wembrel/core/recipes/inputs/input-maps';
import { readTexel } from '@wembrel/core/recipes/readings/at-texel';
import { TexelBatches } from '@wembrel/core/recipes/readings/batches';
import { conditionCoverage, lineCoverage } from '@wembrel/core/recipes/readings/coverage';
import { measureHistogram } from '@wembrel/core/recipes/readings/histogram';
import { measuredTexels } from '@wembrel/core/recipes/readings/measured';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { colourLine, jobOf, recipeOf, sixSides } from './scenes.ts';

const box = sixSides({ side: 96, gap: 4 });
const batches = new TexelBatches(box);
const context = { surface: box, inputs: NO_INPUTS, shared: {}, slot: 0 };
const measured = (condition: unknown) => Condition.parse(condition) as MeasuredCondition;

/** A job that nothing has been laid of yet. */
const job = (lines: Parameters<typeof recipeOf>[0]) => jobOf({ recipe: recipeOf(lines), surface: box });

describe('where something holds on a surface', () => {
  test('one of six equal sides faces up: a sixth of the surface, and of the texels', () => {
    const up = conditionCoverage(Condition.parse({ of: 'facing', to: 45 }), context, batches);
    expect(up.share).toBeCloseTo(1 / 6, 3);
    const full = up.texels.filter((v) => v === 255).length;
    const any = conditionCoverage(Condition.parse({ of: 'facing', to: 180 }), context, batches);
    expect(full / any.texels.filter((v) => v === 255).length).toBeCloseTo(1 / 6, 2);
  });

  test('a line covers what its condition and strength say, on or off', () => {
    const lines = [colourLine('half', '#ff0000', { of: 'part', names: ['side 2'] }, { strength: 0.5 })];
    const { texels, share } = lineCoverage(job(lines), 0, batches);
    expect(share).toBeCloseTo(0.5 / 6, 3);
    expect(new Set(texels)).toEqual(new Set([0, 128]));
  });
});

test('what a condition measures stands at each texel, and nothing beside the islands', () => {
  const up = measured({ of: 'facing', to: 45 });
  const texels = measuredTexels(up, context, batches) as Float32Array;
  const angles = new Set([...texels].filter((v) => !Number.isNaN(v)).map(Math.round));
  expect([...angles].sort((a, b) => a - b)).toEqual([0, 90, 180]);
  const { texels: inside } = conditionCoverage(Condition.parse({ of: 'facing', to: 180 }), context, batches);
  expect([...texels].every((v, i) => Number.isNaN(v) === (inside[i] === 0))).toBe(true);
  expect(measuredTexels(measured({ of: 'ao', to: 0.5 }), context, batches)).toBeNull();
});

describe('the histogram of a measure', () => {
  test('sums to the whole surface, and its share is what the condition covers', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 180, noNaN: true }),
        fc.double({ min: 0, max: 180, noNaN: true }),
        fc.double({ min: 0, max: 60, noNaN: true }),
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -1, max: 1, noNaN: true }))),
        (a, b, soft, direction) => {
          fc.pre(Math.hypot(...direction) > 0.1);
          const condition = measured({ of: 'facing', direction, from: Math.min(a, b), to: Math.max(a, b), soft });
          const found = measureHistogram(condition, context, batches);
          expect(found?.shares.reduce((sum, v) => sum + v, 0)).toBeCloseTo(1, 6);
          expect(found?.share).toBeCloseTo(conditionCoverage(condition, context, batches).share, 6);
        },
      ),
      { numRuns: 20 },
    );
  });

  test('the lowest quarter of a box holds a quarter of its upright sides, and the lower side', () => {
    const condition = measured({ of: 'position', axis: 'y', within: 'model', unit: 'share', to: 0.25 });
    const found = measureHistogram(condition, context, batches);
    // Four upright sides by a quarter, the lower side whole.
    expect(found?.share).toBeCloseTo((4 * 0.25 + 1) / 6, 1);
    expect(found?.from).toBeCloseTo(0, 1);
    expect(found?.to).toBeCloseTo(1, 1);
  });

  test('what is not there has none', () => {
    expect(measureHistogram(measured({ of: 'ao', to: 0.5 }), context, batches)).toBeNull();
  });
});

describe('a texel', () => {
  const lines = [
    colourLine('all', '#808080'),
    colourLine('ends', '#ff0000', { of: 'slot', names: ['ends'] }, { strength: 0.25 }),
    colourLine('off', '#00ff00'),
  ];

  test('tells the lines that reach it by how much, and what lies there', () => {
    const laid = job(lines.map((line) => (line.name === 'off' ? { ...line, off: true } : line)));
    // In the middle of the first island, which is the side towards +X.
    const end = readTexel(laid, batches, 16, 24);
    expect(end?.lines).toEqual([
      { line: 'all', amount: 1 },
      { line: 'ends', amount: 0.25 },
    ]);
    expect(end).toMatchObject({ part: 'side 0', slot: 'ends', model: 'box.glb', group: null, island: 1 });
    expect(end?.point[0]).toBeCloseTo(1, 5);
    expect(end?.normal).toEqual([1, 0, 0]);
    const body = readTexel(laid, batches, 80, 24);
    expect(body?.lines.map(({ line }) => line)).toEqual(['all']);
  });

  test('beside the islands is none', () => {
    expect(readTexel(job(lines), batches, 0, 0)).toBeNull();
  });
});
