/**
 * Texture reading for the transfer and the comparison: levels in linear space, wrap modes, nearest, bilinear, trilinear.
 * A `LevelSet` is plain shared memory, so that any worker can read it.
 */

import type { SharedMemory } from './wasm.ts';

/** How coordinates outside 0–1 are read. The numbers are those of the glTF sampler. */
export const Wrap = { clamp: 33071, mirror: 33648, repeat: 10497 } as const;

/**
 * A texture as floats in linear light: level 0 and, when built, every smaller level down to 1×1.
 * Texel (x, y) of level l stands at `offsets[l] + (y * width_l + x) * 4`, R G B A, colour not multiplied by alpha.
 * With `alphaWeighted` every blend weighs colour by alpha, so that texels nobody sees lend no colour to their neighbours;
 * where all alphas are 0 the plain mean is kept.
 */
export interface LevelSet {
  width: number;
  height: number;
  levels: number;
  offsets: number[];
  data: Float32Array;
  alphaWeighted: boolean;
  /** Where `data` lies, when the kernel can read it; see `LevelSampler`. */
  home?: LevelHome | null;
}

/** The memory of a level set that the kernel can read, with room for batches behind it. */
export interface LevelHome {
  memory: SharedMemory;
  /** Where the room for batches begins. */
  at: number;
  areas: number;
}

function wrapIndex(i: number, n: number, mode: number): number {
  return i >= 0 && i < n ? i : wrapOutside(i, n, mode);
}

function wrapOutside(i: number, n: number, mode: number): number {
  if (mode === Wrap.repeat) {
    if ((n & (n - 1)) === 0) return i & (n - 1);
    const r = i % n;
    return r < 0 ? r + n : r;
  }
  if (mode === Wrap.mirror) {
    const p = 2 * n;
    let r = i % p;
    if (r < 0) r += p;
    return r < n ? r : p - 1 - r;
  }
  return i < 0 ? 0 : n - 1;
}

/** Adds `weight` × texel at offset o: plain to out[0..3], or with alpha weights to out[0..3] and plain colour to out[4..6]. */
function addTexel(data: Float32Array, o: number, weight: number, alphaWeighted: boolean, out: Float64Array): void {
  if (!alphaWeighted) {
    out[0] += weight * data[o];
    out[1] += weight * data[o + 1];
    out[2] += weight * data[o + 2];
    out[3] += weight * data[o + 3];
    return;
  }
  const wa = weight * data[o + 3];
  out[0] += wa * data[o];
  out[1] += wa * data[o + 1];
  out[2] += wa * data[o + 2];
  out[3] += wa;
  out[4] += weight * data[o];
  out[5] += weight * data[o + 1];
  out[6] += weight * data[o + 2];
}

/** Reads one level; adds `weight` × texel value to `out`. u, v in texture units (1 = the whole texture). */
function addLevel(
  set: LevelSet,
  level: number,
  u: number,
  v: number,
  wrapS: number,
  wrapT: number,
  nearest: boolean,
  weight: number,
  out: Float64Array,
): void {
  const w = Math.max(1, set.width >> level);
  const h = Math.max(1, set.height >> level);
  const { data } = set;
  const base = set.offsets[level];
  if (nearest) {
    const o = base + (wrapIndex(Math.floor(v * h), h, wrapT) * w + wrapIndex(Math.floor(u * w), w, wrapS)) * 4;
    addTexel(data, o, weight, set.alphaWeighted, out);
    return;
  }
  const x = u * w - 0.5;
  const y = v * h - 0.5;
  const fx0 = Math.floor(x);
  const fy0 = Math.floor(y);
  const ax = x - fx0;
  const ay = y - fy0;
  const x0 = wrapIndex(fx0, w, wrapS);
  const x1 = wrapIndex(fx0 + 1, w, wrapS);
  const r0 = base + wrapIndex(fy0, h, wrapT) * w * 4;
  const r1 = base + wrapIndex(fy0 + 1, h, wrapT) * w * 4;
  if (set.alphaWeighted) {
    addTexel(data, r0 + x0 * 4, weight * (1 - ax) * (1 - ay), true, out);
    addTexel(data, r0 + x1 * 4, weight * ax * (1 - ay), true, out);
    addTexel(data, r1 + x0 * 4, weight * (1 - ax) * ay, true, out);
    addTexel(data, r1 + x1 * 4, weight * ax * ay, true, out);
    return;
  }
  const w00 = weight * (1 - ax) * (1 - ay);
  const w10 = weight * ax * (1 - ay);
  const w01 = weight * (1 - ax) * ay;
  const w11 = weight * ax * ay;
  const a = r0 + x0 * 4;
  const b = r0 + x1 * 4;
  const c = r1 + x0 * 4;
  const d = r1 + x1 * 4;
  out[0] += w00 * data[a] + w10 * data[b] + w01 * data[c] + w11 * data[d];
  out[1] += w00 * data[a + 1] + w10 * data[b + 1] + w01 * data[c + 1] + w11 * data[d + 1];
  out[2] += w00 * data[a + 2] + w10 * data[b + 2] + w01 * data[c + 2] + w11 * data[d + 2];
  out[3] += w00 * data[a + 3] + w10 * data[b + 3] + w01 * data[c + 3] + w11 * data[d + 3];
}

/**
 * Trilinear read at level of detail `lod` (0 = full size). Levels that were not built count as the smallest built one.
 * `out`, of seven elements, is overwritten; R G B A end up in out[0..3]. With `nearest`, the level is rounded and the texel is not blended: pixel art stays pixel art.
 */
export function sampleLevels(
  set: LevelSet,
  u: number,
  v: number,
  lod: number,
  wrapS: number,
  wrapT: number,
  nearest: boolean,
  out: Float64Array,
): void {
  for (let k = 0; k < 7; k++) out[k] = 0;
  const top = set.levels - 1;
  const l = lod <= 0 ? 0 : lod >= top ? top : lod;
  const l0 = Math.floor(l);
  const f = l - l0;
  if (nearest) addLevel(set, f < 0.5 ? l0 : l0 + 1, u, v, wrapS, wrapT, true, 1, out);
  else if (f === 0) addLevel(set, l0, u, v, wrapS, wrapT, false, 1, out);
  else {
    addLevel(set, l0, u, v, wrapS, wrapT, false, 1 - f, out);
    addLevel(set, l0 + 1, u, v, wrapS, wrapT, false, f, out);
  }
  if (!set.alphaWeighted) return;
  const a = out[3];
  for (let c = 0; c < 3; c++) out[c] = a > 1e-9 ? out[c] / a : out[4 + c];
}

/** Number of levels down to 1×1. */
export function levelCount(width: number, height: number): number {
  let n = 1;
  while (width > 1 || height > 1) {
    width = Math.max(1, width >> 1);
    height = Math.max(1, height >> 1);
    n++;
  }
  return n;
}

/** Float32 elements that a level set needs. */
export function levelSetLength(width: number, height: number, levels: number): number {
  let n = 0;
  for (let l = 0; l < levels; l++) n += Math.max(1, width >> l) * Math.max(1, height >> l) * 4;
  return n;
}

/** Offsets of the levels in the data. */
export function levelOffsets(width: number, height: number, levels: number): number[] {
  const out: number[] = [];
  let n = 0;
  for (let l = 0; l < levels; l++) {
    out.push(n);
    n += Math.max(1, width >> l) * Math.max(1, height >> l) * 4;
  }
  return out;
}

/** Makes a level of half the sides. @param src, dst where the levels begin @param sw texels a row of the larger one @param w, h sides of the smaller one */
type Halve = (set: LevelSet, src: number, dst: number, sw: number, w: number, h: number) => void;

/** Fills levels 1… from level 0 with the box filter that engines use; odd sizes weigh the covered share of each texel. @param half what makes levels of half the sides, which nearly all are */
export function buildLevels(set: LevelSet, half: Halve = halve): void {
  for (let l = 1; l < set.levels; l++) {
    const sw = Math.max(1, set.width >> (l - 1));
    const sh = Math.max(1, set.height >> (l - 1));
    const w = Math.max(1, set.width >> l);
    const h = Math.max(1, set.height >> l);
    const src = set.offsets[l - 1];
    const dst = set.offsets[l];
    const { data } = set;
    if (sw === w * 2 && sh === h * 2) {
      half(set, src, dst, sw, w, h);
      continue;
    }
    const rx = sw / w;
    const ry = sh / h;
    for (let y = 0; y < h; y++) {
      const y0 = y * ry;
      const y1 = (y + 1) * ry;
      for (let x = 0; x < w; x++) {
        const x0 = x * rx;
        const x1 = (x + 1) * rx;
        let r = 0;
        let g = 0;
        let b = 0;
        let a = 0;
        let pr = 0;
        let pg = 0;
        let pb = 0;
        let sum = 0;
        for (let j = Math.floor(y0); j < y1; j++) {
          const wy = Math.min(y1, j + 1) - Math.max(y0, j);
          for (let i = Math.floor(x0); i < x1; i++) {
            const k = wy * (Math.min(x1, i + 1) - Math.max(x0, i));
            const o = src + (j * sw + i) * 4;
            const ka = set.alphaWeighted ? k * data[o + 3] : k;
            r += ka * data[o];
            g += ka * data[o + 1];
            b += ka * data[o + 2];
            a += k * data[o + 3];
            if (set.alphaWeighted) {
              pr += k * data[o];
              pg += k * data[o + 1];
              pb += k * data[o + 2];
            }
            sum += k;
          }
        }
        const o = dst + (y * w + x) * 4;
        const hidden = set.alphaWeighted && a <= 1e-9;
        const d = set.alphaWeighted && !hidden ? a : sum;
        data[o] = (hidden ? pr : r) / d;
        data[o + 1] = (hidden ? pg : g) / d;
        data[o + 2] = (hidden ? pb : b) / d;
        data[o + 3] = a / sum;
      }
    }
  }
}

/** A level of half the sides, which is nearly every one: the mean of four texels, in the order in which the general way adds them. */
function halve({ data, alphaWeighted }: LevelSet, src: number, dst: number, sw: number, w: number, h: number): void {
  let o = dst;
  for (let y = 0; y < h; y++) {
    let a = src + y * 2 * sw * 4;
    for (let x = 0; x < w; x++, a += 8, o += 4) {
      const b = a + 4;
      const c = a + sw * 4;
      const d = c + 4;
      const alpha = data[a + 3] + data[b + 3] + data[c + 3] + data[d + 3];
      data[o + 3] = alpha / 4;
      if (!alphaWeighted || alpha <= 1e-9) {
        for (let k = 0; k < 3; k++) data[o + k] = (data[a + k] + data[b + k] + data[c + k] + data[d + k]) / 4;
        continue;
      }
      for (let k = 0; k < 3; k++)
        data[o + k] =
          (data[a + 3] * data[a + k] +
            data[b + 3] * data[b + k] +
            data[c + 3] * data[c + k] +
            data[d + 3] * data[d + k]) /
          alpha;
    }
  }
}
