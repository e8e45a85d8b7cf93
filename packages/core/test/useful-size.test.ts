import fc from 'fast-check';
import { expect, test } from 'vitest';
import { usefulSide, usefulSideReference } from '../src/image/useful-size.ts';
import { xorshift32 } from '../src/math/random.ts';

test('the kernel finds the useful side of any picture that its reference finds', () => {
  const found = new Set<boolean>();
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 90 }),
      fc.integer({ min: 1, max: 90 }),
      fc.integer({ min: 1, max: 1e6 }),
      // How coarse the detail is, px, and how strong.
      fc.constantFrom(1, 2, 4, 8, 16, 64),
      fc.constantFrom(0, 1, 2, 4, 40, 200),
      (width, height, seed, cell, range) => {
        const random = xorshift32(seed);
        const grid = Array.from({ length: 100 * 100 * 4 }, () => random());
        const smooth = random() < 0.5;
        const value = (x: number, y: number, c: number) => grid[((y % 100) * 100 + (x % 100)) * 4 + c];
        const data = new Uint8Array(width * height * 4);
        for (let y = 0; y < height; y++)
          for (let x = 0; x < width; x++)
            for (let c = 0; c < 4; c++) {
              const [u, v] = [x / cell, y / cell];
              const [i, j] = [Math.floor(u), Math.floor(v)];
              const [fx, fy] = smooth ? [u - i, v - j] : [0, 0];
              const top = value(i, j, c) * (1 - fx) + value(i + 1, j, c) * fx;
              const bottom = value(i, j + 1, c) * (1 - fx) + value(i + 1, j + 1, c) * fx;
              data[(y * width + x) * 4 + c] = 20 + range * (top * (1 - fy) + bottom * fy);
            }
        const raster = { width, height, bits: 8 as const, data };
        const side = usefulSide(raster);
        found.add(side < Math.max(width, height));
        expect(side).toBe(usefulSideReference(raster));
      },
    ),
    { numRuns: 200 },
  );
  expect(found.size).toBe(2);
});
