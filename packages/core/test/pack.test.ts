import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { PackItem } from '../src/pack/items.ts';
import { pack } from '../src/pack/pack.ts';
import { mapInBox, mapPoints, movedMap } from '../src/pack/placed-map.ts';
import { dilate, scaledBox, touchedCells } from '../src/pack/rasterise.ts';
import { numbers } from './build.ts';
import { borderDistance, shapeDistance } from './gap.ts';
import { FULL, runs, sampled } from './sampling.ts';

/** A random star-shaped island as a fan, in a box from 0. */
function star(random: () => number, size: number): Float64Array {
  const n = 3 + Math.floor(random() * 9);
  const points = Array.from({ length: n }, (_, i) => {
    const r = size * (0.25 + 0.75 * random());
    const a = ((i + random() * 0.7) / n) * 2 * Math.PI;
    return [r * Math.cos(a), r * Math.sin(a)];
  });
  const minX = Math.min(0, ...points.map((point) => point[0]));
  const minY = Math.min(0, ...points.map((point) => point[1]));
  const out: number[] = [];
  for (let i = 0; i < n; i++)
    out.push(
      -minX,
      -minY,
      points[i][0] - minX,
      points[i][1] - minY,
      points[(i + 1) % n][0] - minX,
      points[(i + 1) % n][1] - minY,
    );
  return Float64Array.from(out);
}

const item = (shape: Float64Array, more: Partial<PackItem> = {}): PackItem => ({
  shape,
  factor: 1,
  mayTurn: true,
  ...more,
});

const options = (more: object) => ({
  width: 256,
  height: 256,
  margin: 2,
  rotate: 'quarter' as const,
  maxScale: 1e6,
  effort: 1,
  seed: 1,
  ...more,
});

function area(s: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < s.length; i += 6)
    sum += ((s[i + 2] - s[i]) * (s[i + 5] - s[i + 1]) - (s[i + 4] - s[i]) * (s[i + 3] - s[i + 1])) / 2;
  return sum;
}

function placedShapes(items: PackItem[], result: ReturnType<typeof pack>): Float64Array[] {
  return items.map((it, i) => {
    const placement = result.placements[i];
    const size = result.scale * it.factor;
    const map = mapInBox(scaledBox(it.shape, size), placement, size);
    return mapPoints(movedMap(map, placement.x, placement.y), it.shape);
  });
}

test('random islands: no overlap, no gap under the margin, half of it to the border, nothing mirrored or resized', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 1e9 }),
      fc.integer({ min: 1, max: 14 }),
      fc.constantFrom(0, 1, 2, 3.5, 6, 12),
      fc.constantFrom('none' as const, 'quarter' as const, 'free' as const),
      (seed, count, margin, rotate) => {
        const random = numbers(seed);
        const items = Array.from({ length: count }, () =>
          item(star(random, 5 + random() * 40), { factor: 0.5 + random(), mayTurn: random() > 0.2 }),
        );
        const result = pack(items, options({ margin, rotate }));
        expect(result.scale).toBeGreaterThan(0);
        const shapes = placedShapes(items, result);
        shapes.forEach((shape, i) => {
          expect(borderDistance(shape, 256, 256)).toBeGreaterThanOrEqual(margin / 2 - 1e-6);
          const s = result.scale * items[i].factor;
          expect(area(shape)).toBeCloseTo(area(items[i].shape) * s * s, 4);
          const { turns, direction } = result.placements[i];
          if (rotate === 'none' || !items[i].mayTurn) expect([turns, direction]).toEqual([0, undefined]);
          else if (rotate === 'quarter') expect(direction).toBeUndefined();
          for (let j = 0; j < i; j++) expect(shapeDistance(shape, shapes[j])).toBeGreaterThanOrEqual(margin - 1e-6);
        });
      },
    ),
    { numRuns: runs(40) },
  );
});

test('the same input gives the same layout', () => {
  const random = numbers(99);
  const items = Array.from({ length: 30 }, () => item(star(random, 10 + random() * 30)));
  const first = pack(items, options({ effort: 4 }));
  expect(pack(items, options({ effort: 4 }))).toEqual(first);
});

test.each([
  ['anywhere', { rotate: 'free' }, 6],
  ['on whole texels', { rotate: 'quarter', snap: true }, 30],
])('a better layout that was shown is found again with as many rounds as it says: %s', (_, how, effort) => {
  const random = numbers(42);
  const items = Array.from({ length: 24 }, () => item(star(random, 10 + random() * 30)));
  const shown: ReturnType<typeof pack>[] = [];
  pack(items, options({ ...how, effort, better: (result: ReturnType<typeof pack>) => shown.push(result) }));
  const later = shown.filter((result) => result.rounds > 0);
  expect(later.length).toBeGreaterThan(0);
  for (const result of later) {
    const again = pack(items, options({ ...how, effort: result.rounds }));
    expect({ ...again, attempts: result.attempts }).toEqual(result);
  }
});

test('stopped at any moment, it has what so many whole rounds find', () => {
  const random = numbers(42);
  const items = Array.from({ length: 24 }, () => item(star(random, 10 + random() * 30)));
  const how = { rotate: 'free' } as const;
  let asked = 0;
  let first = 0;
  const full = pack(
    items,
    options({ ...how, effort: 6, cancelled: () => ++asked < 0, better: () => (first ||= asked) }),
  );
  expect(full.rounds).toBe(6);
  let cut = 0;
  for (const k of sampled([1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11], 3)) {
    let left = Math.round(first + ((asked - first) * k) / 12);
    const stopped = pack(items, options({ ...how, effort: 6, cancelled: () => --left < 0 }));
    if (stopped.rounds === 0) continue;
    const again = pack(items, options({ ...how, effort: stopped.rounds }));
    expect(again.scale).toBe(stopped.scale);
    expect(again.placements).toEqual(stopped.placements);
    if (stopped.rounds < 6) cut++;
  }
  expect(cut).toBeGreaterThan(FULL ? 3 : 0);
});

test('shapes of all sizes, most of them smaller than the margin, come out larger than on whole texels', () => {
  for (const [side, margin] of [
    [64, 2],
    [256, 12],
  ]) {
    const random = numbers(7);
    const length = () => 200 ** random();
    const items = Array.from({ length: 130 }, () => {
      const [w, h] = [length(), length()];
      return item(Float64Array.of(0, 0, w, 0, w, h, 0, 0, w, h, 0, h));
    });
    const how = { width: side, height: side, margin, effort: 0, rotate: 'free' };
    const result = pack(items, options(how));
    expect(result.scale).toBeGreaterThan(1.04 * pack(items, options({ ...how, snap: true })).scale);
    const shapes = placedShapes(items, result);
    shapes.forEach((shape, i) => {
      expect(borderDistance(shape, side, side)).toBeGreaterThanOrEqual(margin / 2 - 1e-6);
      for (let j = 0; j < i; j++) expect(shapeDistance(shape, shapes[j])).toBeGreaterThanOrEqual(margin - 1e-6);
    });
  }
});

test('islands stand in the notches and holes of others', () => {
  // A frame of 100 with a hole of 80, and a square of 70 that fits only into it.
  const rect = (x: number, y: number, w: number, h: number) => [
    x,
    y,
    x + w,
    y,
    x + w,
    y + h,
    x,
    y,
    x + w,
    y + h,
    x,
    y + h,
  ];
  const frame = Float64Array.from([
    ...rect(0, 0, 100, 10),
    ...rect(0, 90, 100, 10),
    ...rect(0, 10, 10, 80),
    ...rect(90, 10, 10, 80),
  ]);
  const square = Float64Array.from(rect(0, 0, 70, 70));
  const result = pack([item(frame), item(square)], options({ width: 104, height: 104, margin: 4, maxScale: 1 }));
  expect(result.scale).toBe(1);
});

test('never above the greatest scale, and whole texels at it', () => {
  const random = numbers(5);
  const items = Array.from({ length: 6 }, () => item(star(random, 12)));
  const result = pack(items, options({ maxScale: 1 }));
  expect(result.scale).toBe(1);
  for (const placement of result.placements) expect([placement.x % 1, placement.y % 1]).toEqual([0, 0]);
});

test('a swatch keeps its size in px whatever the scale', () => {
  const big = Float64Array.from([0, 0, 4000, 0, 4000, 4000, 0, 0, 4000, 4000, 0, 4000]);
  const items = [item(big), item(new Float64Array(0), { fixedSide: 4 })];
  const result = pack(items, options({}));
  expect(result.scale).toBeLessThan(0.07);
  const swatch = result.placements[1];
  const s = 4000 * result.scale;
  const placement = result.placements[0];
  const apart =
    swatch.x + 4 + 2 <= placement.x ||
    swatch.y + 4 + 2 <= placement.y ||
    placement.x + s + 2 <= swatch.x + 1e-6 ||
    placement.y + s + 2 <= swatch.y + 1e-6;
  expect(apart).toBe(true);
});

test('what cannot fit at any scale is said, not forced', () => {
  const items = Array.from({ length: 400 }, () => item(new Float64Array(0), { fixedSide: 32 }));
  expect(pack(items, options({ width: 128, height: 128 })).scale).toBe(0);
});

test('touched cells cover the shape, lines and points too', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e9 }), fc.constantFrom(1, 2, 4), (seed, cell) => {
      const random = numbers(seed);
      const shape = star(random, 4 + random() * 40);
      const { mask, width } = touchedCells(shape, cell);
      for (let i = 0; i < shape.length; i += 6)
        for (let k = 0; k < 20; k++) {
          let [a, b] = [random(), random()];
          if (a + b > 1) [a, b] = [1 - a, 1 - b];
          const x = shape[i] + a * (shape[i + 2] - shape[i]) + b * (shape[i + 4] - shape[i]);
          const y = shape[i + 1] + a * (shape[i + 3] - shape[i + 1]) + b * (shape[i + 5] - shape[i + 1]);
          expect(mask[Math.floor((y - 1e-7) / cell) * width + Math.floor((x - 1e-7) / cell)] ?? 1).toBe(1);
        }
    }),
    { numRuns: runs(60) },
  );
  const line = touchedCells(Float64Array.from([0.5, 0.5, 7.5, 0.5, 0.5, 0.5]), 1);
  expect([line.width, line.height, [...line.mask].join('')]).toEqual([8, 1, '11111111']);
  expect(touchedCells(Float64Array.from([2.2, 1.2, 2.2, 1.2, 2.2, 1.2]), 1).mask.reduce((sum, b) => sum + b)).toBe(1);
});

test('the halo holds every cell with a point nearer than the margin', () => {
  const one = dilate(Uint8Array.from([1]), 1, 1, 3, 1);
  for (let y = 0; y < one.height; y++)
    for (let x = 0; x < one.width; x++) {
      const dx = Math.max(0, Math.abs(x - one.reach) - 1);
      const dy = Math.max(0, Math.abs(y - one.reach) - 1);
      expect(one.mask[y * one.width + x]).toBe(Math.hypot(dx, dy) < 3 ? 1 : 0);
    }
});
