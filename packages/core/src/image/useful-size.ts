import { BytePicture } from '@wembrel/kernels/picture';
import type { Raster } from './raster.ts';

/** Side of the blocks whose worst loss counts, texels ("Counts and sizes", Useful size). */
const BLOCK = 32;

/** A picture as floats. */
export interface Level {
  width: number;
  height: number;
  data: Float32Array;
}

/** The next smaller level: means of 2×2 texels, times `gain`. */
export function halved(from: { width: number; height: number; data: ArrayLike<number> }, gain: number): Level {
  const width = Math.max(1, from.width >> 1);
  const height = Math.max(1, from.height >> 1);
  const data = new Float32Array(width * height * 4);
  const { data: d, width: w } = from;
  const sx = from.width > 1 ? 4 : 0;
  const sy = from.height > 1 ? w * 4 : 0;
  const k = gain / 4;
  let o = 0;
  for (let y = 0; y < height; y++) {
    let i = (from.height > 1 ? y * 2 : 0) * w * 4;
    for (let x = 0; x < width; x++) {
      const [j, l, m] = [i + sx, i + sy, i + sx + sy];
      data[o] = (d[i] + d[j] + d[l] + d[m]) * k;
      data[o + 1] = (d[i + 1] + d[j + 1] + d[l + 1] + d[m + 1]) * k;
      data[o + 2] = (d[i + 2] + d[j + 2] + d[l + 2] + d[m + 2]) * k;
      data[o + 3] = (d[i + 3] + d[j + 3] + d[l + 3] + d[m + 3]) * k;
      o += 4;
      i += sx * 2;
    }
  }
  return { width, height, data };
}

/** True when no block of the picture loses `limit` RMS (of 255) or more by being stored as `small`, read bilinearly. */
function survives(raster: Raster, small: Level, limit: number): boolean {
  const { width, height, data } = raster;
  const m = small.data;
  const gain = raster.bits === 8 ? 1 : 1 / 257;
  const kx = small.width / width;
  const ky = small.height / height;
  const allowed = limit * limit;
  // Places and weights along X are those of every row.
  const x0 = new Int32Array(width);
  const x1 = new Int32Array(width);
  const fx = new Float32Array(width);
  for (let x = 0; x < width; x++) {
    const sx = (x + 0.5) * kx - 0.5;
    const f = Math.floor(sx);
    x0[x] = Math.max(0, f) * 4;
    x1[x] = Math.min(small.width - 1, f + 1) * 4;
    fx[x] = sx - f;
  }
  for (let by = 0; by < height; by += BLOCK)
    for (let bx = 0; bx < width; bx += BLOCK) {
      const endX = Math.min(width, bx + BLOCK);
      const endY = Math.min(height, by + BLOCK);
      let s0 = 0;
      let s1 = 0;
      let s2 = 0;
      let s3 = 0;
      for (let y = by; y < endY; y++) {
        const sy = (y + 0.5) * ky - 0.5;
        const f = Math.floor(sy);
        const r0 = Math.max(0, f) * small.width * 4;
        const r1 = Math.min(small.height - 1, f + 1) * small.width * 4;
        const wy = sy - f;
        for (let x = bx; x < endX; x++) {
          const i = (y * width + x) * 4;
          const wx = fx[x];
          const a = r0 + x0[x];
          const b = r0 + x1[x];
          const p = r1 + x0[x];
          const q = r1 + x1[x];
          // Channel by channel in full: this is the innermost loop of every survey.
          let top = m[a] + (m[b] - m[a]) * wx;
          let e = data[i] * gain - (top + (m[p] + (m[q] - m[p]) * wx - top) * wy);
          s0 += e * e;
          top = m[a + 1] + (m[b + 1] - m[a + 1]) * wx;
          e = data[i + 1] * gain - (top + (m[p + 1] + (m[q + 1] - m[p + 1]) * wx - top) * wy);
          s1 += e * e;
          top = m[a + 2] + (m[b + 2] - m[a + 2]) * wx;
          e = data[i + 2] * gain - (top + (m[p + 2] + (m[q + 2] - m[p + 2]) * wx - top) * wy);
          s2 += e * e;
          top = m[a + 3] + (m[b + 3] - m[a + 3]) * wx;
          e = data[i + 3] * gain - (top + (m[p + 3] + (m[q + 3] - m[p + 3]) * wx - top) * wy);
          s3 += e * e;
        }
      }
      const n = (endX - bx) * (endY - by);
      if (Math.max(s0, s1, s2, s3) / n >= allowed) return false;
    }
  return true;
}

/** Loss from which on a halving does not hold, RMS of 255. */
const LIMIT = 1;

/**
 * Longest side at which the picture still shows all that it has: the smallest halving whose loss, back at full size, stays below
 * 1/255 RMS in the worst 32×32 block of the worst channel, on stored values ("Counts and sizes", Useful size). Stops at the first
 * block that loses more, so that a picture full of detail costs little. Pictures of bytes are looked at by a kernel; `usefulSideReference` finds the same.
 * @param picture it in the kernel's memory, not halved yet @returns px; the picture's own longest side when no halving holds
 */
export function usefulSide(raster: Raster, least = 4, picture = bytePicture(raster)): number {
  if (!picture) return usefulSideReference(raster, least);
  let side = Math.max(raster.width, raster.height);
  while (side / 2 >= least) {
    picture.halve();
    if (!picture.survives(LIMIT * LIMIT)) return side;
    side = Math.max(...picture.sides);
  }
  return side;
}

/** Texels of the largest picture that the kernel takes: nine bytes each lie in its memory. */
const KERNEL_TEXELS = 2 ** 28;

/** A picture of bytes in the kernel's memory; null for others, and for very large ones. */
export function bytePicture({ width, height, data }: Raster): BytePicture | null {
  return data instanceof Uint8Array && width * height <= KERNEL_TEXELS ? new BytePicture(width, height, data) : null;
}

/** @returns the same, in plain TypeScript */
export function usefulSideReference(raster: Raster, least = 4): number {
  const longest = Math.max(raster.width, raster.height);
  let level: Level | null = null;
  let side = longest;
  const gain = raster.bits === 8 ? 1 : 1 / 257;
  while (side / 2 >= least) {
    level = halved(level ?? raster, level ? 1 : gain);
    if (!survives(raster, level, LIMIT)) return side;
    side = Math.max(level.width, level.height);
  }
  return side;
}
