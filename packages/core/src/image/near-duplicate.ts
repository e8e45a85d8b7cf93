import { pictureDifference } from './metrics.ts';
import { linearToLab } from './oklab.ts';
import type { Raster } from './raster.ts';
import { decodeTable } from './srgb.ts';
import { halved, type Level } from './useful-size.ts';

/** How a picture is compared: as seen, value by value, or as directions. */
export type PictureSense = 'colour' | 'data' | 'normal';

export interface Likeness {
  ssim: number;
  /** Mean difference: ΔE OK × 100, percent of the range, or degrees. */
  mean: number;
  /** Mean of the worst 8×8 block, same unit. */
  worst: number;
}

/** Longest side at which pictures are compared, px. */
const COMMON = 1024;
const BLOCK = 8;
const MEAN = 2;
const WORST = 5;

/** Bounds of "Counts and sizes", Near-duplicate. */
export function isNearDuplicate(likeness: Likeness): boolean {
  return likeness.ssim >= 0.98 && likeness.mean <= MEAN && likeness.worst <= WORST;
}

/** Means over the area of each new texel; R G B A in 0 … 255. */
function shrunk(raster: Raster, width: number, height: number): Float32Array {
  let gain = raster.bits === 8 ? 1 : 1 / 257;
  let r: Level | Raster = raster;
  // Whole halvings first: they are quick, and the mean of means is the same mean.
  while (r.width >= width * 2 && r.height >= height * 2 && r.width % 2 === 0 && r.height % 2 === 0) {
    r = halved(r, gain);
    gain = 1;
  }
  if (r.width === width && r.height === height) {
    const out = new Float32Array(width * height * 4);
    for (let i = 0; i < out.length; i++) out[i] = r.data[i] * gain;
    return out;
  }
  const out = new Float32Array(width * height * 4);
  const kx = r.width / width;
  const ky = r.height / height;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [x0, x1, y0, y1] = [x * kx, (x + 1) * kx, y * ky, (y + 1) * ky];
      const o = (y * width + x) * 4;
      let total = 0;
      for (let sy = Math.floor(y0); sy < y1; sy++)
        for (let sx = Math.floor(x0); sx < x1; sx++) {
          const w = (Math.min(sx + 1, x1) - Math.max(sx, x0)) * (Math.min(sy + 1, y1) - Math.max(sy, y0));
          if (!(w > 1e-9)) continue;
          const i = (Math.min(r.height - 1, sy) * r.width + Math.min(r.width - 1, sx)) * 4;
          for (let c = 0; c < 4; c++) out[o + c] += r.data[i + c] * gain * w;
          total += w;
        }
      for (let c = 0; c < 4; c++) out[o + c] /= total;
    }
  return out;
}

/**
 * How alike two pictures are after scaling to a common size: the smaller width and height of the two, 1024 at most. Pictures whose mean or
 * worst block is beyond the bounds already are not compared further: their similarity is given as 0, and the mean is that up to there.
 */
export function compareLikeness(raster: Raster, b: Raster, sense: PictureSense): Likeness {
  const fit = Math.min(1, COMMON / Math.max(Math.min(raster.width, b.width), Math.min(raster.height, b.height)));
  const width = Math.max(1, Math.round(Math.min(raster.width, b.width) * fit));
  const height = Math.max(1, Math.round(Math.min(raster.height, b.height) * fit));
  const [p, q] = [shrunk(raster, width, height), shrunk(b, width, height)];
  const table = decodeTable(8);
  const labA = new Float64Array(3);
  const labB = new Float64Array(3);
  const light = (v: number) => {
    const f = Math.floor(v);
    return f >= 255 ? 1 : table[f] + (table[f + 1] - table[f]) * (v - f);
  };
  const difference = (i: number): number => {
    if (sense === 'colour') {
      linearToLab(light(p[i]), light(p[i + 1]), light(p[i + 2]), labA);
      linearToLab(light(q[i]), light(q[i + 1]), light(q[i + 2]), labB);
      const e = 100 * Math.sqrt((labA[0] - labB[0]) ** 2 + (labA[1] - labB[1]) ** 2 + (labA[2] - labB[2]) ** 2);
      return Math.max(e, (Math.abs(p[i + 3] - q[i + 3]) / 255) * 100);
    }
    if (sense === 'data') {
      let worst = 0;
      for (let c = 0; c < 4; c++) worst = Math.max(worst, Math.abs(p[i + c] - q[i + c]));
      return (worst / 255) * 100;
    }
    const v = (d: Float32Array) => [d[i] / 127.5 - 1, d[i + 1] / 127.5 - 1, d[i + 2] / 127.5 - 1];
    const [m, n] = [v(p), v(q)];
    const dot = m[0] * n[0] + m[1] * n[1] + m[2] * n[2];
    const length = Math.sqrt((m[0] ** 2 + m[1] ** 2 + m[2] ** 2) * (n[0] ** 2 + n[1] ** 2 + n[2] ** 2));
    return length > 0 ? (Math.acos(Math.min(1, Math.max(-1, dot / length))) * 180) / Math.PI : 0;
  };
  let sum = 0;
  let worst = 0;
  for (let by = 0; by < height; by += BLOCK)
    for (let bx = 0; bx < width; bx += BLOCK) {
      let block = 0;
      let n = 0;
      for (let y = by; y < Math.min(height, by + BLOCK); y++)
        for (let x = bx; x < Math.min(width, bx + BLOCK); x++) {
          block += difference((y * width + x) * 4);
          n++;
        }
      sum += block;
      worst = Math.max(worst, block / n);
      if (worst > WORST) return { ssim: 0, mean: sum / (width * height), worst };
    }
  const mean = sum / (width * height);
  return { ssim: mean > MEAN ? 0 : ssimOf(p, q, width, height), mean, worst };
}

function ssimOf(p: Float32Array, q: Float32Array, width: number, height: number): number {
  const size = Math.max(width, height);
  const cover = new Uint8Array(size * size);
  const bytes = (d: Float32Array) => {
    const out = new Uint8Array(size * size * 3);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const o = (y * size + x) * 3;
        for (let c = 0; c < 3; c++) out[o + c] = Math.round(d[(y * width + x) * 4 + c]);
        cover[y * size + x] = 255;
      }
    return out;
  };
  const a = bytes(p);
  return pictureDifference(a, bytes(q), cover, cover, size).ssim;
}
