import type { PictureSense } from './near-duplicate.ts';
import { resizeRaster } from './resize.ts';

/**
 * A map at a fraction of its side: means over whole squares, in the way that suits what it holds ("Colour and filtering").
 * @param data three or four bytes a texel @param by whole divisor of both sides
 */
export function shrinkMap(
  data: Uint8Array,
  width: number,
  height: number,
  channels: 3 | 4,
  by: number,
  sense: PictureSense,
): { data: Uint8Array; width: number; height: number } {
  if (by === 1) return { data, width, height };
  const texels = width * height;
  const rgba = new Uint8Array(texels * 4);
  for (let i = 0; i < texels; i++) {
    for (let c = 0; c < channels; c++) rgba[i * 4 + c] = data[i * channels + c];
    if (channels === 3) rgba[i * 4 + 3] = 255;
  }
  const small = resizeRaster({ width, height, bits: 8, data: rgba }, width / by, height / by, sense);
  if (channels === 4) return { data: small.data as Uint8Array, width: small.width, height: small.height };
  const out = new Uint8Array(new SharedArrayBuffer(small.width * small.height * 3));
  for (let i = 0; i < small.width * small.height; i++)
    for (let c = 0; c < 3; c++) out[i * 3 + c] = small.data[i * 4 + c];
  return { data: out, width: small.width, height: small.height };
}
