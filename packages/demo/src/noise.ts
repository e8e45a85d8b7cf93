/** Repeatable noise: integers in, values out; no clock and no platform functions. */

function hash(x: number, y: number, seed: number): number {
  let h = Math.imul(x, 0x27d4eb2d) ^ Math.imul(y, 0x165667b1) ^ Math.imul(seed, 0x9e3779b1);
  h = Math.imul(h ^ (h >>> 15), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

const smooth = (t: number) => t * t * (3 - 2 * t);

/** Value noise that repeats after `period` cells in both directions; x, y in cells. */
export function valueNoise(x: number, y: number, period: number, seed: number): number {
  const xi = Math.floor(x);
  const yi = Math.floor(y);
  const fx = smooth(x - xi);
  const fy = smooth(y - yi);
  const wrap = (v: number) => ((v % period) + period) % period;
  const x0 = wrap(xi);
  const x1 = wrap(xi + 1);
  const y0 = wrap(yi);
  const y1 = wrap(yi + 1);
  const a = hash(x0, y0, seed) * (1 - fx) + hash(x1, y0, seed) * fx;
  const b = hash(x0, y1, seed) * (1 - fx) + hash(x1, y1, seed) * fx;
  return a * (1 - fy) + b * fy;
}

/** Layers of value noise, each twice as fine and half as strong; u, v in 0 … 1, result 0 … 1. */
export function layered(u: number, v: number, cells: number, octaves: number, seed: number): number {
  let sum = 0;
  let weight = 0;
  let k = 1;
  for (let o = 0; o < octaves; o++) {
    sum += k * valueNoise(u * cells, v * cells, cells, seed + o);
    weight += k;
    k *= 0.5;
    cells *= 2;
  }
  return sum / weight;
}
