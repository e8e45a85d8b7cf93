import { pictureDifference } from './metrics.ts';
import { linearToLab } from './oklab.ts';
import type { Raster } from './raster.ts';
import { decodeTable } from './srgb.ts';
import { halved } from './useful-size.ts';

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

/** A picture as it is compared with others: R G B A, 0 … 255. */
export interface ComparedPicture {
  width: number;
  height: number;
  data: Uint8Array | Float32Array;
}

/** Can be kept where a picture is compared with several: it is no larger than comparing needs. */
export function comparedPicture(raster: Raster): ComparedPicture {
  let r: ComparedPicture =
    raster.bits === 8
      ? { ...raster, data: raster.data as Uint8Array }
      : { ...raster, data: Float32Array.from(raster.data, (v) => v / 257) };
  while (r.width >= 2 * COMMON && r.height >= 2 * COMMON && isEven(r)) r = halved(r, 1);
  return r;
}

const isEven = ({ width, height }: ComparedPicture): boolean => width % 2 === 0 && height % 2 === 0;

/** Means over the area of each new texel. */
function shrunk(picture: ComparedPicture, width: number, height: number): ComparedPicture['data'] {
  let r = picture;
  // Whole halvings first: they are quick, and the mean of means is the same mean.
  while (r.width >= width * 2 && r.height >= height * 2 && isEven(r)) r = halved(r, 1);
  if (r.width === width && r.height === height) return r.data;
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
          for (let c = 0; c < 4; c++) out[o + c] += r.data[i + c] * w;
          total += w;
        }
      for (let c = 0; c < 4; c++) out[o + c] /= total;
    }
  return out;
}

/** Steps in which blocks are looked at, both ways: every so many first, then those between, so that a difference anywhere shows soon. */
const STRIDE = 4;

/** Upper left texels of all blocks, each once; see `STRIDE`. */
function* blocksOf(width: number, height: number): Generator<[x: number, y: number]> {
  const step = STRIDE * BLOCK;
  for (let oy = 0; oy < step; oy += BLOCK)
    for (let ox = 0; ox < step; ox += BLOCK)
      for (let y = oy; y < height; y += step) for (let x = ox; x < width; x += step) yield [x, y];
}

/**
 * How alike two pictures are after scaling to a common size: the smaller width and height of the two, 1024 at most. Pictures whose mean or
 * worst block is beyond the bounds already are not compared further: their similarity is given as 0, and the mean is that of what was looked at.
 */
export function compareLikeness(a: ComparedPicture, b: ComparedPicture, sense: PictureSense): Likeness {
  const fit = Math.min(1, COMMON / Math.max(Math.min(a.width, b.width), Math.min(a.height, b.height)));
  const width = Math.max(1, Math.round(Math.min(a.width, b.width) * fit));
  const height = Math.max(1, Math.round(Math.min(a.height, b.height) * fit));
  const [p, q] = [shrunk(a, width, height), shrunk(b, width, height)];
  const difference = DIFFERENCES[sense](p, q);
  let sum = 0;
  let looked = 0;
  let worst = 0;
  for (const [bx, by] of blocksOf(width, height)) {
    let block = 0;
    let n = 0;
    for (let y = by; y < Math.min(height, by + BLOCK); y++)
      for (let x = bx; x < Math.min(width, bx + BLOCK); x++) {
        block += difference((y * width + x) * 4);
        n++;
      }
    sum += block;
    looked += n;
    worst = Math.max(worst, block / n);
    if (worst > WORST || sum > MEAN * width * height) return { ssim: 0, mean: sum / looked, worst };
  }
  return { ssim: ssimOf(p, q, width, height), mean: sum / looked, worst };
}

/** How two texels differ, by the place of their first values; the unit is that of `Likeness`. */
type Difference = (p: ComparedPicture['data'], q: ComparedPicture['data']) => (i: number) => number;

const DIFFERENCES: Record<PictureSense, Difference> = {
  colour(p, q) {
    const table = decodeTable(8);
    const labA = new Float64Array(3);
    const labB = new Float64Array(3);
    const light = (v: number) => {
      const f = Math.floor(v);
      return f >= 255 ? 1 : table[f] + (table[f + 1] - table[f]) * (v - f);
    };
    return (i) => {
      const alpha = (Math.abs(p[i + 3] - q[i + 3]) / 255) * 100;
      if (p[i] === q[i] && p[i + 1] === q[i + 1] && p[i + 2] === q[i + 2]) return alpha;
      linearToLab(light(p[i]), light(p[i + 1]), light(p[i + 2]), labA);
      linearToLab(light(q[i]), light(q[i + 1]), light(q[i + 2]), labB);
      const e = 100 * Math.sqrt((labA[0] - labB[0]) ** 2 + (labA[1] - labB[1]) ** 2 + (labA[2] - labB[2]) ** 2);
      return Math.max(e, alpha);
    };
  },
  data(p, q) {
    return (i) => {
      let worst = 0;
      for (let c = 0; c < 4; c++) worst = Math.max(worst, Math.abs(p[i + c] - q[i + c]));
      return (worst / 255) * 100;
    };
  },
  normal(p, q) {
    return (i) => {
      const [px, py, pz] = [p[i] / 127.5 - 1, p[i + 1] / 127.5 - 1, p[i + 2] / 127.5 - 1];
      const [qx, qy, qz] = [q[i] / 127.5 - 1, q[i + 1] / 127.5 - 1, q[i + 2] / 127.5 - 1];
      const dot = px * qx + py * qy + pz * qz;
      const length = Math.sqrt((px ** 2 + py ** 2 + pz ** 2) * (qx ** 2 + qy ** 2 + qz ** 2));
      return length > 0 ? (Math.acos(Math.min(1, Math.max(-1, dot / length))) * 180) / Math.PI : 0;
    };
  },
};

function ssimOf(p: ComparedPicture['data'], q: ComparedPicture['data'], width: number, height: number): number {
  const size = Math.max(width, height);
  const cover = new Uint8Array(size * size);
  for (let y = 0; y < height; y++) cover.fill(255, y * size, y * size + width);
  const bytes = (d: ComparedPicture['data']) => {
    const out = new Uint8Array(size * size * 3);
    for (let y = 0; y < height; y++)
      for (let x = 0, i = y * width * 4, o = y * size * 3; x < width; x++, i += 4, o += 3) {
        out[o] = Math.round(d[i]);
        out[o + 1] = Math.round(d[i + 1]);
        out[o + 2] = Math.round(d[i + 2]);
      }
    return out;
  };
  const a = bytes(p);
  return pictureDifference(a, bytes(q), cover, cover, size).ssim;
}
