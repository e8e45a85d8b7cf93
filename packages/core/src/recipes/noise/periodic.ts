/** Repeatable noise in the plane that goes on at its opposite edge: integers in, values out; no clock and no platform functions. */

function hash(x: number, y: number, seed: number): number {
  let h = Math.imul(x, 0x27d4eb2d) ^ Math.imul(y, 0x165667b1) ^ Math.imul(seed, 0x9e3779b1);
  h = Math.imul(h ^ (h >>> 15), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

const smooth = (t: number) => t * t * (3 - 2 * t);

/** Value noise that repeats after `period` cells in both directions; x, y in cells. */
export function valueNoise(x: number, y: number, period: number, seed: number): number {
  return stretchedNoise(x, y, [period, period], seed);
}

/** The same with other periods along x and y, for grain. */
export function stretchedNoise(x: number, y: number, period: readonly [number, number], seed: number): number {
  const xi = Math.floor(x);
  const yi = Math.floor(y);
  const fx = smooth(x - xi);
  const fy = smooth(y - yi);
  const wrap = (v: number, n: number) => ((v % n) + n) % n;
  const x0 = wrap(xi, period[0]);
  const x1 = wrap(xi + 1, period[0]);
  const y0 = wrap(yi, period[1]);
  const y1 = wrap(yi + 1, period[1]);
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

/** Cells around points that lie by chance, one in each square of a lattice (Worley 1996). */
export interface Cell {
  /** Distances to the nearest point and to the next one, in squares. */
  near: number;
  next: number;
  /** 0 … 1, by cell. */
  id: number;
}

/** @param x, y in squares @param period squares until it is the same again */
export function cellsAt(x: number, y: number, period: number, seed: number, out: Cell): Cell {
  const xi = Math.floor(x);
  const yi = Math.floor(y);
  out.near = out.next = Infinity;
  for (let j = -1; j <= 1; j++)
    for (let i = -1; i <= 1; i++) {
      const cx = (((xi + i) % period) + period) % period;
      const cy = (((yi + j) % period) + period) % period;
      const dx = xi + i + hash(cx, cy, seed) - x;
      const dy = yi + j + hash(cx, cy, seed + 31) - y;
      const d = Math.sqrt(dx * dx + dy * dy);
      if (d < out.near) {
        out.next = out.near;
        out.near = d;
        out.id = hash(cx, cy, seed + 77);
      } else if (d < out.next) out.next = d;
    }
  return out;
}
