import { bytesOfHex } from './hex.ts';

/** Transfer function of sRGB (IEC 61966-2-1). */
export function srgbToLinear(v: number): number {
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
}

/** Linear colour of `#rrggbb`. */
export function linearOf(hex: string): [number, number, number] {
  return bytesOfHex(hex).map((v) => srgbToLinear(v / 255)) as [number, number, number];
}

export function linearToSrgb(v: number): number {
  if (v <= 0) return 0;
  if (v >= 1) return 1;
  return v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055;
}

const decode8 = Float32Array.from({ length: 256 }, (_, i) => srgbToLinear(i / 255));
let decode16: Float32Array | undefined;

/** Look-up table from stored value to linear light for 8 or 16 bits. */
export function decodeTable(bits: 8 | 16): Float32Array {
  if (bits === 8) return decode8;
  decode16 ??= Float32Array.from({ length: 65536 }, (_, i) => srgbToLinear(i / 65535));
  return decode16;
}

/** Linear values at which the encoded byte changes: byte b covers thresholds[b − 1] … thresholds[b]. */
const thresholds = Float64Array.from({ length: 255 }, (_, b) => srgbToLinear((b + 0.5) / 255));

/** A first guess of the byte for each 1/4096 of linear light, from which `encodeByte` steps to the exact one. */
const guess = Uint8Array.from({ length: 4097 }, (_, i) => {
  let b = 0;
  while (b < 255 && thresholds[b] <= i / 4096) b++;
  return b;
});

/** Linear light to the nearest sRGB byte, exactly as rounding 255 × encode(v). */
export function encodeByte(v: number): number {
  if (!(v > 0)) return 0;
  if (v >= 1) return 255;
  let b = guess[(v * 4096) | 0];
  while (b < 255 && thresholds[b] <= v) b++;
  return b;
}

/** The tables of `encodeByte`, for kernels. */
export const encodeTables = (): { guess: Uint8Array; thresholds: Float64Array } => ({ guess, thresholds });

/** A value in 0 … 1 to a byte. */
export function unitByte(v: number): number {
  return v <= 0 ? 0 : v >= 1 ? 255 : (v * 255 + 0.5) | 0;
}
