import type { LevelSet } from '@wembrel/kernels/sample';
import { hashTriple } from '../../math/hash.ts';

/**
 * Breaks up the repetition of a picture: over a lattice of triangles each corner has its own piece of it, moved (and turned) by chance, and the three are blended. Means
 * alone would lose contrast, so values are blended as normally distributed ones and turned back (Heitz & Neyret 2018; by channel, as in Mikkelsen 2022).
 */

/** Steps of the tables. */
const STEPS = 1024;
/** Normal values beyond so many deviations are cut off. */
const WIDEST = 4;

/** For each of four channels: from a value 0 … 1 to a normally distributed one, and back. */
export interface GaussTables {
  to: Float32Array;
  from: Float32Array;
}

/** Tables from how often each value occurs in a picture. */
export function gaussTables({ width, height, data }: LevelSet): GaussTables {
  const to = new Float32Array(new SharedArrayBuffer(STEPS * 16));
  const from = new Float32Array(new SharedArrayBuffer(STEPS * 16));
  const values = new Float32Array(width * height);
  for (let c = 0; c < 4; c++) {
    for (let i = 0; i < values.length; i++) values[i] = data[i * 4 + c];
    values.sort();
    fillTables(values, to.subarray(c * STEPS, (c + 1) * STEPS), from.subarray(c * STEPS, (c + 1) * STEPS));
  }
  return { to, from };
}

/** @param sorted all values of a channel */
function fillTables(sorted: Float32Array, to: Float32Array, from: Float32Array): void {
  const n = sorted.length;
  let below = 0;
  for (let i = 0; i < STEPS; i++) {
    const v = valueOfStep(i);
    const first = below;
    while (below < n && sorted[below] <= v) below++;
    // Equal values take the middle of the ranks that they have.
    const rank = (first + below) / 2 / n;
    to[i] = normalOf(Math.min(1 - 0.5 / n, Math.max(0.5 / n, below === first ? below / n : rank)));
  }
  for (let i = 0; i < STEPS; i++) {
    const g = ((i / (STEPS - 1)) * 2 - 1) * WIDEST;
    const at = Math.min(n - 1, Math.max(0, normalShare(g) * n - 0.5));
    const low = Math.floor(at);
    const high = Math.min(n - 1, low + 1);
    from[i] = sorted[low] + (sorted[high] - sorted[low]) * (at - low);
  }
}

/** Steps lie closer where it is dark: linear light is told apart by its root. */
const valueOfStep = (i: number): number => (i / (STEPS - 1)) ** 2;

/** A value of channel `c` as a normally distributed one. */
export function toNormal(tables: GaussTables, c: number, v: number): number {
  const x = Math.sqrt(v <= 0 ? 0 : v >= 1 ? 1 : v) * (STEPS - 1);
  return between(tables.to, c * STEPS, x);
}

/** And back. */
export function fromNormal(tables: GaussTables, c: number, g: number): number {
  const x = (g / WIDEST + 1) * 0.5 * (STEPS - 1);
  return between(tables.from, c * STEPS, x < 0 ? 0 : x > STEPS - 1 ? STEPS - 1 : x);
}

function between(table: Float32Array, base: number, x: number): number {
  const i = Math.min(STEPS - 2, Math.floor(x));
  return table[base + i] + (table[base + i + 1] - table[base + i]) * (x - i);
}

/** Share of a normal distribution below a value (Abramowitz & Stegun 1964, 26.2.17; within 7.5e-8). */
function normalShare(x: number): number {
  const t = 1 / (1 + 0.2316419 * Math.abs(x));
  const tail =
    (Math.exp((-x * x) / 2) / Math.sqrt(2 * Math.PI)) *
    t *
    (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
  return x >= 0 ? 1 - tail : tail;
}

/** The value below which a share of a normal distribution lies, by halving. */
function normalOf(share: number): number {
  let [low, high] = [-WIDEST, WIDEST];
  for (let k = 0; k < 40; k++) {
    const middle = (low + high) / 2;
    if (normalShare(middle) < share) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

/** Pieces at the three corners of the lattice around a place: by what each is moved and turned, and its weight. */
export interface Pieces {
  weight: Float64Array;
  /** Added to u and v, in repeats, after the turn. */
  du: Float64Array;
  dv: Float64Array;
  /** Cosine and sine of each turn. */
  cos: Float64Array;
  sin: Float64Array;
}

export const newPieces = (): Pieces => ({
  weight: new Float64Array(3),
  du: new Float64Array(3),
  dv: new Float64Array(3),
  cos: new Float64Array(3),
  sin: new Float64Array(3),
});

/** Directions that pieces are turned to. */
const TURNS = 64;
const COSINES = Float64Array.from({ length: TURNS }, (_, i) => Math.cos((2 * Math.PI * i) / TURNS));
const SINES = Float64Array.from({ length: TURNS }, (_, i) => Math.sin((2 * Math.PI * i) / TURNS));

/** Height of a row of the lattice as a share of the width of its triangles: a little more than √3/2, so that rows can be even in number where it wraps. */
const ROW = Math.sqrt(3) / 2;

/** A lattice of triangles whose rows are moved by half a triangle each. Where it wraps, the number of rows is even. */
export class Lattice {
  private readonly across: number;
  private readonly down: number;
  /** Columns and rows after which it is the same again; 0: never. */
  private readonly columns: number;
  private readonly rows: number;

  /**
   * @param cell width of a triangle in repeats @param wraps repeats after which it is the same again, or null @param aspect height of a repeat over its width
   * @param texels of the picture along its sides: pieces that are not turned are moved by whole ones, or blending between texels would blur them
   */
  constructor(
    cell: number,
    wraps: readonly [number, number] | null,
    aspect: number,
    private readonly texels: readonly [number, number],
  ) {
    this.columns = wraps ? Math.max(1, Math.round(wraps[0] / cell)) : 0;
    this.rows = wraps ? 2 * Math.max(1, Math.round((wraps[1] * aspect) / cell / ROW / 2)) : 0;
    this.across = wraps ? this.columns / wraps[0] : 1 / cell;
    this.down = wraps ? this.rows / wraps[1] : aspect / cell / ROW;
  }

  /** The pieces around a place. @param u, v in repeats @param turned pieces are turned as well */
  at(u: number, v: number, seed: number, turned: boolean, out: Pieces): void {
    const y = v * this.down;
    const x = u * this.across - y * 0.5;
    const i = Math.floor(x);
    const j = Math.floor(y);
    const fx = x - i;
    const fy = y - j;
    const upper = fx + fy < 1;
    out.weight[0] = upper ? 1 - fx - fy : fx + fy - 1;
    out.weight[1] = upper ? fx : 1 - fy;
    out.weight[2] = upper ? fy : 1 - fx;
    this.piece(0, upper ? i : i + 1, upper ? j : j + 1, seed, turned, u, v, out);
    this.piece(1, i + 1, j, seed, turned, u, v, out);
    this.piece(2, i, j + 1, seed, turned, u, v, out);
  }

  private piece(
    k: number,
    i: number,
    j: number,
    seed: number,
    turned: boolean,
    u: number,
    v: number,
    out: Pieces,
  ): void {
    let [column, row] = [i, j];
    if (this.rows > 0) {
      row = ((j % this.rows) + this.rows) % this.rows;
      // A round of rows moves columns by half their number.
      column = i + (j - row) / 2;
      column = ((column % this.columns) + this.columns) % this.columns;
    }
    const h = hashTriple(column, row, seed) >>> 0;
    const g = hashTriple(row, column + 0x51ed27, seed) >>> 0;
    const turn = turned ? h % TURNS : 0;
    const cos = COSINES[turn];
    const sin = SINES[turn];
    out.cos[k] = cos;
    out.sin[k] = sin;
    // The piece is turned about its own corner of the lattice.
    const cv = j / this.down;
    const cu = (i + j * 0.5) / this.across;
    const [across, down] = this.texels;
    out.du[k] = cu + (u - cu) * cos - (v - cv) * sin - u + Math.floor((h / 4294967296) * across) / across;
    out.dv[k] = cv + (u - cu) * sin + (v - cv) * cos - v + Math.floor((g / 4294967296) * down) / down;
  }
}

/** By what a place is moved so that whole courses change their places: another stretch of another course, of the same parity. */
export function courseMove(
  u: number,
  v: number,
  courses: { across: number; down: number },
  repeats: number,
  seed: number,
): readonly [number, number] {
  let row = Math.floor(v * courses.down);
  if (repeats > 0) row = ((row % (courses.down * repeats)) + courses.down * repeats) % (courses.down * repeats);
  const h = hashTriple(row, 0x2545f4, seed) >>> 0;
  const g = hashTriple(row, 0x9e3779, seed) >>> 0;
  const pairs = Math.max(1, Math.floor(courses.down / 2));
  return [u + (h % courses.across) / courses.across, v + (2 * (g % pairs)) / courses.down];
}
