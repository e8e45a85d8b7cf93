import fc from 'fast-check';
import { expect, test } from 'vitest';
import { pictureDifference } from '../src/image/metrics.ts';
import { ssimInside } from '../src/image/ssim.ts';
import { xorshift32 } from '../src/math/random.ts';

/** What `pictureDifference` says, pixel by pixel. */
function plainly(a: Uint8Array, b: Uint8Array, coverA: Uint8Array, coverB: Uint8Array, size: number) {
  const covered = Array.from({ length: size * size }, (_, i) => i).filter((i) => coverA[i] || coverB[i]);
  const [xs, ys] = [covered.map((i) => i % size), covered.map((i) => Math.floor(i / size))];
  const squares = covered.reduce(
    (sum, i) => sum + [0, 1, 2].reduce((s, c) => s + (a[i * 3 + c] - b[i * 3 + c]) ** 2, 0),
    0,
  );
  if (squares === 0) return { psnr: null, ssim: 1 };
  const box = { x0: Math.min(...xs), x1: Math.max(...xs), y0: Math.min(...ys), y1: Math.max(...ys) };
  return {
    psnr: 10 * Math.log10((255 * 255) / (squares / (covered.length * 3))),
    ssim: ssimInside(a, b, coverA, coverB, size, box),
  };
}

test('the kernel says of any two pictures what its reference says, to the last bit', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 60 }),
      fc.integer({ min: 1, max: 1e6 }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      fc.constantFrom(0, 3, 255),
      (size, seed, share, range) => {
        const random = xorshift32(seed);
        const count = size * size;
        const a = Uint8Array.from({ length: count * 3 }, () => random() * 256);
        const b = a.map((v) => Math.max(0, Math.min(255, v + Math.round((random() - 0.5) * 2 * range))));
        const cover = () => Uint8Array.from({ length: count }, () => (random() < share ? 1 + random() * 255 : 0));
        const [coverA, coverB] = [cover(), cover()];
        const ours = pictureDifference(a, b, coverA, coverB, size);
        expect(ours).toEqual(plainly(a, b, coverA, coverB, size));
      },
    ),
  );
});
