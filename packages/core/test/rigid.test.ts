import fc from 'fast-check';
import { expect, test } from 'vitest';
import { MergeDecisions } from '../src/decisions/decisions.ts';
import { packSheet } from '../src/layout/pack-sheet.ts';
import type { PlacedShape } from '../src/layout/packable.ts';
import { placePoint } from '../src/layout/place.ts';
import { numbers } from './build.ts';
import { shapeDistance } from './gap.ts';
import { plot } from './plot.ts';
import { runs } from './sampling.ts';

const triangle = (w: number, h: number) => Float64Array.of(0, 0, w, 0, 0, h);
/** px of all corners of a placed shape. */
const pointsOf = (placedShape: PlacedShape) =>
  Float64Array.from(
    Array.from({ length: placedShape.shape.length / 2 }, (_, i) =>
      placePoint(placedShape, placedShape.shape[2 * i], placedShape.shape[2 * i + 1]),
    ).flat(),
  );

function laid(count: number, rigid: object[][], rotate: 'none' | 'quarter' | 'free', seed: number, size = 256) {
  const r = numbers(seed);
  const decisions = MergeDecisions.parse({
    sheets: [{ id: '1', name: 'sheet', size, margin: 3, rigid }],
    rotate,
    effort: 0,
  });
  const plots = Array.from({ length: count }, (_, i) => plot(i, triangle(10 + r() * 40, 10 + r() * 40)));
  const sharp = plots.map(() => ({ factor: 1, most: 4 }));
  return packSheet(plots, { factors: sharp, sheet: decisions.sheets[0], index: 0, decisions }).plots;
}

test('a group moves, turns and scales as one; all others keep their distance from its members', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 1e6 }),
      fc.constantFrom('none' as const, 'quarter' as const, 'free' as const),
      fc.constantFrom(128, 256),
      (seed, rotate, size) => {
        const r = numbers(seed);
        const angle = r() * 6;
        const turned = r() < 0.5;
        const pin = (k: number, x: number, y: number, scale: number) => ({
          key: `k${k}`,
          x,
          y,
          width: 30,
          height: 30,
          turns: turned ? 0 : Math.floor(r() * 4),
          ...(turned ? { direction: [Math.cos(angle + k), Math.sin(angle + k)] } : {}),
          scale,
        });
        // Far enough apart that members cannot be nearer than the margin wherever they are put.
        const rigid = [[pin(0, 0, 0, 1), pin(1, 90, 10, 0.8), pin(2, 30, 100, 1.2)]];
        const before = laid(9, [], 'none', seed, 1024);
        const plots = laid(9, rigid, rotate, seed, size);
        // Where the members lay when they were put together.
        const then = rigid[0].map((p, i) => {
          const shape = before[i];
          const scale = p.scale;
          const [w, h] = [0, 1].map((k) =>
            Math.max(1, Math.ceil(Math.max(...[...shape.shape].filter((_, n) => n % 2 === k)) * scale - 1e-6)),
          );
          return pointsOf({
            ...shape,
            ...p,
            boxWidth: w,
            boxHeight: h,
            turns: p.turns as 0,
            direction: p.direction as never,
          });
        });
        const now = plots.slice(0, 3).map(pointsOf);
        const all = (list: Float64Array[]) => list.flatMap((l) => [...l]);
        const [a, b] = [all(then), all(now)];
        const far = (l: number[], i: number, j: number) => Math.hypot(l[i] - l[j], l[i + 1] - l[j + 1]);
        const k = far(b, 0, 2) / far(a, 0, 2);
        for (let i = 0; i < a.length; i += 2)
          for (let j = i + 2; j < a.length; j += 2) expect(far(b, i, j)).toBeCloseTo(k * far(a, i, j), 5);
        // Not mirrored either: by the corners of one triangle, which are never on one line.
        const side = (l: number[]) => (l[2] - l[0]) * (l[5] - l[1]) - (l[3] - l[1]) * (l[4] - l[0]);
        expect(Math.sign(side(b))).toBe(Math.sign(side(a)));
        for (let i = 0; i < plots.length; i++) {
          for (const v of pointsOf(plots[i])) expect(v > 0 && v < size).toBe(true);
          for (let j = Math.max(3, i + 1); j < plots.length; j++)
            expect(shapeDistance(pointsOf(plots[i]), pointsOf(plots[j]))).toBeGreaterThan(3 - 1e-4);
        }
      },
    ),
    { numRuns: runs(10), examples: [[721060, 'free', 128]] },
  );
}, 120_000);

test('a member that is not there is left out; alone, the other is packed as any', () => {
  const pin = (key: string) => ({ key, x: 0, y: 0, width: 9, height: 9, turns: 0, scale: 1 });
  const one = laid(6, [[pin('k1'), pin('gone')]], 'free', 5);
  const none = laid(6, [], 'free', 5);
  expect(one).toEqual(none);
});
