import type { ComposedImage } from './profile-images.ts';
import { round } from './round.ts';

/** How far a written image is from what was baked. */
export interface ImageLoss {
  /** Greatest difference of each channel, of 255. */
  greatest: number[];
  /** dB over all channels; null: every value is the same. */
  psnr: number | null;
}

/**
 * Holds an image that was read back against the one that was written.
 * @param read R G B A bytes as a reader has them; grey in all three of R G B @throws Error where the size is another
 */
export function imageLoss(
  { width, height, channels, data }: ComposedImage,
  read: { width: number; height: number; data: ArrayLike<number>; bits: number },
): ImageLoss {
  if (read.width !== width || read.height !== height) throw new Error('the image was read back in another size');
  const scale = read.bits === 16 ? 1 / 257 : 1;
  const greatest = new Array<number>(channels).fill(0);
  let squares = 0;
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < channels; c++) {
      const off = Math.abs(read.data[i * 4 + c] * scale - data[i * channels + c]);
      if (off > greatest[c]) greatest[c] = off;
      squares += off * off;
    }
  const mean = squares / (width * height * channels);
  return { greatest, psnr: mean === 0 ? null : round(10 * Math.log10(255 ** 2 / mean)) };
}
