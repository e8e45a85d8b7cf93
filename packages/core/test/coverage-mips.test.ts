import fc from 'fast-check';
import { expect, test } from 'vitest';
import { coverageMips } from '../src/image/coverage-mips.ts';
import { runs } from './sampling.ts';

const shareOf = (data: Uint8Array, cutoff: number) => data.filter((a) => a >= cutoff * 255).length / data.length;

test('coverage stays at every level, to one texel, for any picture of texels that differ', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 40 }),
      fc.integer({ min: 1, max: 40 }),
      fc.double({ min: 0.05, max: 0.95, noNaN: true }),
      fc.integer({ min: 1, max: 1e6 }),
      (w, h, cutoff, seed) => {
        let s = seed;
        const next = () => {
          s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
          return s / 2 ** 32;
        };
        const alpha = Uint8Array.from({ length: w * h }, () => Math.floor(next() * 256));
        const share = shareOf(alpha, cutoff);
        const levels = coverageMips(alpha, w, h, cutoff);
        for (const level of levels) {
          expect(level.data).toHaveLength(level.width * level.height);
          // Texels that are alike at the edge pass together or not at all.
          const alike = level.data.filter((a) => a === Math.ceil(cutoff * 255)).length;
          expect(Math.abs(shareOf(level.data, cutoff) - share) * level.data.length).toBeLessThanOrEqual(
            Math.max(1, alike) + 1e-6,
          );
        }
        if (w * h > 1) expect(levels.at(-1)).toMatchObject({ width: 1, height: 1 });
      },
    ),
    { numRuns: runs(60) },
  );
});

test('thin leaves stay, where means alone lose them; all and nothing stay what they are', () => {
  // Lines of one texel in four: the mean is a quarter, below any usual cutoff.
  const lines = Uint8Array.from({ length: 64 * 64 }, (_, i) => (i % 4 === 0 ? 255 : 0));
  const [one, two] = coverageMips(lines, 64, 64, 0.5);
  expect(shareOf(one.data, 0.5)).toBe(0.5);
  // All texels are alike there: none can be taken without the others.
  expect(shareOf(two.data, 0.5)).toBe(1);
  for (const v of [0, 255])
    for (const coverageLevel of coverageMips(new Uint8Array(64).fill(v), 8, 8, 0.5))
      expect(new Set(coverageLevel.data)).toEqual(new Set([v]));
});
