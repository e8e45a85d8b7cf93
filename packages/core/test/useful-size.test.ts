import fc from 'fast-check';
import { expect, test } from 'vitest';
import { analysePicture } from '../src/image/analysis.ts';
import { usefulSide, usefulSideReference } from '../src/image/useful-size.ts';
import { xorshift32 } from '../src/math/random.ts';
import { runs } from './sampling.ts';

test('the kernel finds of any picture what its reference finds', () => {
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
        // Grey ones and flat ones among them.
        if (seed % 3 === 0) for (let i = 0; i < data.length; i += 4) data[i + 1] = data[i + 2] = data[i];
        if (seed % 7 === 0) data.fill(9);
        if (seed % 5 !== 0) return;
        const text = (plain: boolean) =>
          JSON.stringify(analysePicture(raster, plain), (_, v) =>
            v instanceof Uint8Array ? Buffer.from(v).toString('latin1') : v,
          );
        expect(text(false) === text(true)).toBe(true);
      },
    ),
    { numRuns: runs(200) },
  );
  expect(found.size).toBe(2);
});
