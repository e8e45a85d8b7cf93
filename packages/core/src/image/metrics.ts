import { ssimInside } from './ssim.ts';

/** Image difference over the pixels that either picture covers. */
export interface Difference {
  /** dB; null when the pictures are identical there. */
  psnr: number | null;
  ssim: number;
}

/**
 * PSNR over R G B and SSIM (see `ssimInside`), both over the union of the two coverages.
 * @param a, b three bytes a pixel
 */
export function pictureDifference(
  a: Uint8Array,
  b: Uint8Array,
  coverA: Uint8Array,
  coverB: Uint8Array,
  size: number,
): Difference {
  let squares = 0;
  let count = 0;
  let x0 = size;
  let x1 = -1;
  let y0 = size;
  let y1 = -1;
  for (let y = 0, i = 0; y < size; y++)
    for (let x = 0; x < size; x++, i++) {
      if (!coverA[i] && !coverB[i]) continue;
      count++;
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (y < y0) y0 = y;
      y1 = y;
      const r = a[i * 3] - b[i * 3];
      const g = a[i * 3 + 1] - b[i * 3 + 1];
      const v = a[i * 3 + 2] - b[i * 3 + 2];
      squares += r * r + g * g + v * v;
    }
  if (count === 0 || squares === 0) return { psnr: null, ssim: 1 };
  const psnr = 10 * Math.log10((255 * 255) / (squares / (count * 3)));
  return { psnr, ssim: ssimInside(a, b, coverA, coverB, size, { x0, y0, x1, y1 }) };
}

/** The difference picture: mid grey where equal, four times the difference around it. */
export function differencePicture(a: Uint8Array, b: Uint8Array): Uint8Array {
  const out = new Uint8Array(a.length);
  for (let i = 0; i < a.length; i++) out[i] = Math.max(0, Math.min(255, 128 + (b[i] - a[i]) * 4));
  return out;
}
