import { DifferenceKernel } from '@wembrel/kernels/difference';
import { SSIM_CONSTANTS } from './ssim.ts';

/** Image difference over the pixels that either picture covers. */
export interface Difference {
  /** dB; null when the pictures are identical there. */
  psnr: number | null;
  ssim: number;
}

/** The kernel of this thread; the memory of the largest pictures serves all others. */
let held: DifferenceKernel | null = null;

function kernelFor(size: number): DifferenceKernel {
  if (!held || held.size < size) held = new DifferenceKernel(size, SSIM_CONSTANTS);
  return held;
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
  const kernel = kernelFor(size);
  kernel.load({ pixels: a, coverage: coverA }, { pixels: b, coverage: coverB }, size);
  const { sum, count, box } = kernel.squares();
  if (count === 0 || sum === 0) return { psnr: null, ssim: 1 };
  const psnr = 10 * Math.log10((255 * 255) / (sum / (count * 3)));
  return { psnr, ssim: kernel.ssim(box) };
}

/** The difference picture: mid grey where equal, four times the difference around it. */
export function differencePicture(a: Uint8Array, b: Uint8Array): Uint8Array {
  const out = new Uint8Array(a.length);
  for (let i = 0; i < a.length; i++) out[i] = Math.max(0, Math.min(255, 128 + (b[i] - a[i]) * 4));
  return out;
}
