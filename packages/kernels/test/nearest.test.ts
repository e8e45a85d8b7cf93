import fc from 'fast-check';
import { expect, test } from 'vitest';
import { runs } from '../../core/test/sampling.ts';
import { NO_FEATURE, nearestFeature } from '../src/nearest.ts';
import { nearestReference } from '../src/nearest-reference.ts';

/** The plain definition: smallest squared distance, ties to the lowest index. */
function slow(mask: Uint8Array, w: number, h: number): Int32Array {
  const out = new Int32Array(w * h).fill(NO_FEATURE);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let best = Infinity;
      for (let i = 0; i < w * h; i++) {
        if (!mask[i]) continue;
        const d = ((i % w) - x) ** 2 + (Math.floor(i / w) - y) ** 2;
        if (d < best) {
          best = d;
          out[y * w + x] = i;
        }
      }
    }
  return out;
}

const grid = fc
  .tuple(fc.integer({ min: 1, max: 24 }), fc.integer({ min: 1, max: 24 }), fc.integer({ min: 0, max: 60 }))
  .chain(([w, h, percent]) =>
    fc.tuple(
      fc.constant(w),
      fc.constant(h),
      fc
        .array(fc.integer({ min: 0, max: 99 }), { minLength: w * h, maxLength: w * h })
        .map((a) => Uint8Array.from(a, (v) => (v < percent ? 1 : 0))),
    ),
  );

test('distance to the nearest feature equals brute force on any grid', () => {
  fc.assert(
    fc.property(grid, ([w, h, mask]) => {
      const fast = nearestFeature(mask, w, h);
      expect(nearestReference(mask, w, h)).toEqual(fast);
      const truth = slow(mask, w, h);
      for (let i = 0; i < w * h; i++) {
        if (truth[i] < 0) {
          expect(fast[i]).toBe(NO_FEATURE);
          continue;
        }
        const d = (s: number) => ((s % w) - (i % w)) ** 2 + (Math.floor(s / w) - Math.floor(i / w)) ** 2;
        expect(mask[fast[i]]).toBe(1);
        expect(d(fast[i])).toBe(d(truth[i]));
      }
    }),
    { numRuns: runs(300) },
  );
});

test('ties go to the lowest index', () => {
  fc.assert(
    fc.property(grid, ([w, h, mask]) => {
      expect([...nearestFeature(mask, w, h)]).toEqual([...slow(mask, w, h)]);
    }),
    { numRuns: runs(300) },
  );
});
