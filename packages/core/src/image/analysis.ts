import type { BytePicture } from '@wembrel/kernels/picture';
import { type ChannelRange, channelRange, isExactlyFlat, meanColour, type Raster } from './raster.ts';
import { bytePicture, usefulSide, usefulSideReference } from './useful-size.ts';

/** Side of the picture's small likeness, texels. */
export const LIKENESS = 128;

/** Side of the grid that says where the picture is flat. */
export const FLAT_GRID = 64;

/** What a look at the pixels tells; everything is of stored values. */
export interface PictureAnalysis {
  /** Every texel is the same. */
  flat: boolean;
  /** The values of each channel differ by 2/255 at most ("Counts and sizes", flat). */
  nearlyFlat: boolean;
  /** Mean of R, G and B, 0 … 255. */
  mean: [number, number, number];
  /** Least and greatest value of R, G, B, A, 0 … 1. */
  min: [number, number, number, number];
  max: [number, number, number, number];
  /** R, G and B agree everywhere: one channel would do. */
  grey: boolean;
  /** Longest side at which it shows all that it has, px. */
  usefulSide: number;
  /** LIKENESS × LIKENESS means of R, G, B, A, 0 … 255: what near-duplicates are found by. */
  likeness: Uint8Array;
  /** FLAT_GRID × FLAT_GRID: 1 where no channel varies by more than 2/255 inside the cell. */
  flatCells: Uint8Array;
}

const FLAT = 2 / 255 + 1e-9;

/** What a look at the pixels tells. Pictures of bytes are looked at by a kernel; `plain` leaves it out, and finds the same. */
export function analysePicture(raster: Raster, plain = false): PictureAnalysis {
  const picture = plain ? null : bytePicture(raster);
  const range = picture ? sharesOf(picture.range()) : channelRange(raster);
  const flat = isExactlyFlat(range);
  return {
    flat,
    nearlyFlat: range.min.every((v, i) => range.max[i] - v <= FLAT),
    mean: meanColour(raster),
    min: range.min,
    max: range.max,
    grey: picture ? picture.isGrey() : isGrey(raster),
    likeness: picture ? picture.likeness(LIKENESS) : likenessOf(raster),
    usefulSide: flat ? 4 : plain ? usefulSideReference(raster) : usefulSide(raster, 4, picture),
    flatCells: flat ? new Uint8Array(FLAT_GRID * FLAT_GRID).fill(1) : flatCellsOf(raster),
  };
}

function sharesOf({ least, most }: ReturnType<BytePicture['range']>): ChannelRange {
  const shares = (values: Uint8Array) => Array.from(values, (v) => v / 255) as ChannelRange['min'];
  return { min: shares(least), max: shares(most) };
}

function flatCellsOf({ width, height, data, bits }: Raster): Uint8Array {
  const allowed = bits === 8 ? 2 : 514;
  const out = new Uint8Array(FLAT_GRID * FLAT_GRID);
  for (let cy = 0; cy < FLAT_GRID; cy++)
    for (let cx = 0; cx < FLAT_GRID; cx++) {
      const x0 = Math.floor((cx * width) / FLAT_GRID);
      const x1 = Math.max(x0 + 1, Math.ceil(((cx + 1) * width) / FLAT_GRID));
      const y0 = Math.floor((cy * height) / FLAT_GRID);
      const y1 = Math.max(y0 + 1, Math.ceil(((cy + 1) * height) / FLAT_GRID));
      out[cy * FLAT_GRID + cx] = Number(isFlatBox(data, width, x0, y0, x1, y1, allowed));
    }
  return out;
}

function isFlatBox(
  data: Uint8Array | Uint16Array,
  width: number,
  x0: number,
  y0: number,
  x1: number,
  y1: number,
  allowed: number,
): boolean {
  for (let c = 0; c < 4; c++) {
    const first = data[(y0 * width + x0) * 4 + c];
    let low = first;
    let high = first;
    for (let y = y0; y < y1; y++)
      for (let x = x0; x < x1; x++) {
        const v = data[(y * width + x) * 4 + c];
        if (v < low) low = v;
        else if (v > high) high = v;
        if (high - low > allowed) return false;
      }
  }
  return true;
}

function isGrey({ data }: Raster): boolean {
  for (let i = 0; i < data.length; i += 4) if (data[i] !== data[i + 1] || data[i] !== data[i + 2]) return false;
  return true;
}

/** Means of a coarse grid; large pictures are read at every few texels. */
function likenessOf(raster: Raster): Uint8Array {
  const { width, height, data } = raster;
  const gain = raster.bits === 8 ? 1 : 1 / 257;
  const out = new Uint8Array(LIKENESS * LIKENESS * 4);
  for (let cy = 0; cy < LIKENESS; cy++)
    for (let cx = 0; cx < LIKENESS; cx++) {
      const x0 = Math.floor((cx * width) / LIKENESS);
      const x1 = Math.max(x0 + 1, Math.floor(((cx + 1) * width) / LIKENESS));
      const y0 = Math.floor((cy * height) / LIKENESS);
      const y1 = Math.max(y0 + 1, Math.floor(((cy + 1) * height) / LIKENESS));
      const step = Math.max(1, (x1 - x0) >> 4);
      let [r, g, b, a, n] = [0, 0, 0, 0, 0];
      for (let y = y0; y < y1; y += step)
        for (let i = (y * width + x0) * 4; i < (y * width + x1) * 4; i += step * 4) {
          r += data[i];
          g += data[i + 1];
          b += data[i + 2];
          a += data[i + 3];
          n++;
        }
      const o = (cy * LIKENESS + cx) * 4;
      out[o] = Math.round((r * gain) / n);
      out[o + 1] = Math.round((g * gain) / n);
      out[o + 2] = Math.round((b * gain) / n);
      out[o + 3] = Math.round((a * gain) / n);
    }
  return out;
}

/** How far two likenesses differ: mean over the cells, and the worst cell. */
export interface LikenessDistance {
  mean: number;
  worst: number;
}

/**
 * @param vectors measure the length of the difference instead of the largest channel
 * @param bounds stop at the first cell that takes mean or worst beyond them
 * @returns null when it stopped
 */
export function likenessDistance(
  a: Uint8Array,
  b: Uint8Array,
  vectors: boolean,
  bounds: LikenessDistance = { mean: Number.POSITIVE_INFINITY, worst: Number.POSITIVE_INFINITY },
): LikenessDistance | null {
  const cells = a.length / 4;
  const most = bounds.mean * cells;
  let sum = 0;
  let worst = 0;
  for (let i = 0; i < a.length; i += 4) {
    let d = 0;
    if (vectors) d = Math.sqrt((a[i] - b[i]) ** 2 + (a[i + 1] - b[i + 1]) ** 2 + (a[i + 2] - b[i + 2]) ** 2);
    else for (let c = 0; c < 4; c++) d = Math.max(d, Math.abs(a[i + c] - b[i + c]));
    sum += d;
    if (d > worst) worst = d;
    if (sum > most || worst > bounds.worst) return null;
  }
  return { mean: sum / cells, worst };
}

/** Cells of the likeness along the side of a cell of its coarse form. */
const COARSE = 8;

/** Means over squares of cells, as floats. */
export function coarseLikeness(likeness: Uint8Array): Float32Array {
  const side = LIKENESS / COARSE;
  const out = new Float32Array(side * side * 4);
  for (let y = 0; y < LIKENESS; y++)
    for (let x = 0; x < LIKENESS; x++) {
      const o = ((y >> 3) * side + (x >> 3)) * 4;
      const i = (y * LIKENESS + x) * 4;
      for (let c = 0; c < 4; c++) out[o + c] += likeness[i + c] / (COARSE * COARSE);
    }
  return out;
}

/**
 * False when two pictures cannot be within the bounds of `likenessDistance`: a difference of means is never more than the mean of differences, so
 * that a look at the coarse forms rules most pairs out.
 */
export function mayBeAlike(a: Float32Array, b: Float32Array, vectors: boolean, bounds: LikenessDistance): boolean {
  const most = (bounds.mean * a.length) / 4;
  let sum = 0;
  for (let i = 0; i < a.length; i += 4) {
    const [r, g, bl, al] = [a[i] - b[i], a[i + 1] - b[i + 1], a[i + 2] - b[i + 2], a[i + 3] - b[i + 3]];
    const d = vectors
      ? Math.sqrt(r * r + g * g + bl * bl)
      : Math.max(Math.abs(r), Math.abs(g), Math.abs(bl), Math.abs(al));
    sum += d;
    if (sum > most * (1 + 1e-6) || d > bounds.worst * (1 + 1e-6)) return false;
  }
  return true;
}
