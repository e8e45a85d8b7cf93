import { levelHome } from '@wembrel/kernels/sampler';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type Encoding, levelSetBytes, toLevels, toLevelsAt } from '../src/image/levels.ts';
import { xorshift32 } from '../src/math/random.ts';
import { runs } from './sampling.ts';

test('levels that are filled in place are those of plain TypeScript, to the bit', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 70 }),
      fc.integer({ min: 1, max: 70 }),
      fc.constantFrom<Encoding>('srgb', 'normal', 'linear'),
      fc.boolean(),
      fc.integer({ min: 1, max: 1e6 }),
      (width, height, encoding, weighted, seed) => {
        const random = xorshift32(seed);
        // Clear texels and clear areas among them.
        const data = Uint8Array.from({ length: width * height * 4 }, (_, i) =>
          i % 4 === 3 && (random() < 0.3 || i < width * height) ? 0 : random() * 256,
        );
        const raster = { width, height, bits: 8 as const, data };
        const bytes = levelSetBytes(width, height, true);
        const home = levelHome(bytes, 1);
        if (!home) throw new Error('no memory');
        const { home: _, ...ours } = toLevelsAt(home, raster, encoding, weighted, true);
        const plain = toLevels(raster, encoding, weighted, true, new ArrayBuffer(bytes));
        expect(Buffer.from(ours.data.slice().buffer).equals(Buffer.from(plain.data.buffer))).toBe(true);
        expect({ ...ours, data: null }).toEqual({ ...plain, data: null });
      },
    ),
    { numRuns: runs(200) },
  );
});
