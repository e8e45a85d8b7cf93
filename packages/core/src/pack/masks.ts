import type { Field } from '@wembrel/kernels/field';
import type { RunMask } from '@wembrel/kernels/run-mask';
import { CONSTRUCTION } from './tuning.ts';

/** A body of a construction in one direction, as cells. */
export interface Mask {
  direction: readonly [number, number];
  /** Cells nearer than the margin to the shape: what must be free. Those of the shape itself: what is taken. */
  halo: RunMask;
  body: RunMask;
  /** Middle of the shape from the upper left of the halo, cells. */
  midX: number;
  midY: number;
  /** Rows and columns of the halo outside the body's box. */
  bodyTop: number;
  bodyBottom: number;
  bodyLeft: number;
  bodyRight: number;
  /** Side of the largest square inside the halo, and where it lies in it. */
  square: number;
  squareTop: number;
  squareLeft: number;
  /** Cells just outside the halo, as `MaskMaker.ringOf` makes them; its upper left lies `CONSTRUCTION.ring` cells above and to the left of the halo's. */
  ring?: RunMask;
}

/** A mask in its cells: the upper left of its halo. */
export interface GridPlace {
  mask: Mask;
  x: number;
  y: number;
}

/** Cells of a shape: 0 free, 1 too near to it, 2 its own. */
interface Cells {
  width: number;
  height: number;
  of: Uint8Array;
}

/**
 * Makes the masks of bodies for one construction. Their lists share long arrays, and cells are held only while their masks are made: thousands of
 * small arrays would take longer to make than to fill.
 */
export class MaskMaker {
  private lists = new Int32Array(0);
  private taken = 0;
  private starts = new Uint32Array(64);
  private readonly cells = [new Uint8Array(0), new Uint8Array(0)];

  /**
   * @param margin px @param cell px a cell @param reach cells nearer than this to a shape are its own, cells
   * @param always whether a shape that has no cell so near, as it is smaller or thinner than one, takes the nearest; else it takes none
   */
  constructor(
    private readonly margin: number,
    private readonly cell: number,
    private readonly reach: number,
    private readonly always = false,
  ) {}

  /**
   * Masks of a body in its directions, each a quarter turn after the one before: the cells of the first, turned. Directions that give nearly the
   * same cells again (of a disc, of a rectangle) are left out.
   */
  masksOf(field: Field, size: number, directions: readonly (readonly [number, number])[]): Mask[] {
    let cells = this.cellsOf(field, size, directions[0]);
    const different = directions.length > 1 ? differentTurns(cells) : 1;
    return directions.slice(0, different).map((direction, k) => {
      if (k > 0) cells = this.turnedCells(cells);
      return this.maskOf(cells, direction);
    });
  }

  /** An array that is not the one given, for cells; what it held is lost. */
  private room(size: number, other?: Uint8Array): Uint8Array {
    const k = other && other.buffer === this.cells[0].buffer ? 1 : 0;
    if (this.cells[k].length < size) this.cells[k] = new Uint8Array(2 * size);
    return this.cells[k];
  }

  /** The cells of a body, about the middle of its box. */
  private cellsOf(field: Field, size: number, [c, s]: readonly [number, number]): Cells {
    const { cell, margin } = this;
    const rx = (Math.abs(c) * field.halfWidth + Math.abs(s) * field.halfHeight) * size + margin;
    const ry = (Math.abs(s) * field.halfWidth + Math.abs(c) * field.halfHeight) * size + margin;
    // Rounded, so that rows of shapes are as often too near as too far apart.
    const width = Math.max(1, Math.round((2 * rx) / cell));
    const height = Math.max(1, Math.round((2 * ry) / cell));
    const of = this.room(width * height);
    const [halo, body] = [margin / size, (this.reach * cell) / size];
    let [nearest, least] = [0, Number.POSITIVE_INFINITY];
    for (let y = 0; y < height; y++) {
      const py = ((y + 0.5 - height / 2) * cell) / size;
      for (let x = 0; x < width; x++) {
        const px = ((x + 0.5 - width / 2) * cell) / size;
        const d = fieldAt(field, c * px + s * py, c * py - s * px);
        of[y * width + x] = d < body ? 2 : d < halo ? 1 : 0;
        if (d < least) [nearest, least] = [y * width + x, d];
      }
    }
    if (this.always) of[nearest] = 2;
    return { width, height, of };
  }

  /** A quarter turn, from x towards y. */
  private turnedCells({ width, height, of }: Cells): Cells {
    const out = this.room(width * height, of);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) out[x * height + (height - 1 - y)] = of[y * width + x];
    return { width: height, height: width, of: out };
  }

  /** Room for a list of at most so many numbers; `take` says how many it has. */
  private list(most: number): Int32Array {
    if (this.taken + most > this.lists.length) {
      this.lists = new Int32Array(Math.max(1 << 16, most));
      this.taken = 0;
    }
    return this.lists.subarray(this.taken, this.taken + most);
  }

  private take(list: Int32Array, length: number): Int32Array {
    this.taken += length;
    return list.subarray(0, length);
  }

  /** Runs of cells that are at least of a kind, as (row, start, length). */
  private runsOf({ width, height, of }: Cells, least: number): { runs: Int32Array; cells: number } {
    const runs = this.list(3 * height * ((width + 1) >> 1));
    let n = 0;
    let cells = 0;
    for (let y = 0, at = 0; y < height; y++)
      for (let x = 0; x < width; ) {
        if (of[at] < least) {
          x++;
          at++;
          continue;
        }
        const from = x;
        while (x < width && of[at] >= least) {
          x++;
          at++;
        }
        runs[n] = y;
        runs[n + 1] = from;
        runs[n + 2] = x - from;
        n += 3;
        cells += x - from;
      }
    return { runs: this.take(runs, n), cells };
  }

  /** The cells up to `CONSTRUCTION.ring` from a halo, in both directions, and not its own; made once. */
  ringOf(mask: Mask): RunMask {
    if (mask.ring) return mask.ring;
    const width = mask.halo.width + 2 * CONSTRUCTION.ring;
    const height = mask.halo.height + 2 * CONSTRUCTION.ring;
    const of = this.room(width * height);
    of.fill(0, 0, width * height);
    const { runs } = mask.halo;
    // Stretched to all sides; then without its own.
    for (let i = 0; i < runs.length; i += 3)
      for (let k = 0; k <= 2 * CONSTRUCTION.ring; k++) {
        const at = (runs[i] + k) * width + runs[i + 1];
        of.fill(1, at, at + runs[i + 2] + 2 * CONSTRUCTION.ring);
      }
    for (let i = 0; i < runs.length; i += 3) {
      const at = (runs[i] + CONSTRUCTION.ring) * width + runs[i + 1] + CONSTRUCTION.ring;
      of.fill(0, at, at + runs[i + 2]);
    }
    mask.ring = { width, height, ...this.runsOf({ width, height, of }, 1) };
    return mask.ring;
  }

  private maskOf(of: Cells, direction: readonly [number, number]): Mask {
    const { width: w, height: h } = of;
    const halo = this.runsOf(of, 1);
    const body = this.runsOf(of, 2);
    if (this.starts.length < w + 2) this.starts = new Uint32Array(2 * w);
    const ordered = longestFirst(halo.runs, this.list(halo.runs.length), this.starts);
    let [top, bottom, left, right] = [h >> 1, h >> 1, w >> 1, w >> 1];
    const { runs } = body;
    if (runs.length > 0) {
      [top, bottom, left, right] = [runs[0], runs[runs.length - 3], w, -1];
      for (let i = 0; i < runs.length; i += 3) {
        left = Math.min(left, runs[i + 1]);
        right = Math.max(right, runs[i + 1] + runs[i + 2] - 1);
      }
    }
    const [square, squareTop, squareLeft] = largestSquare(of.of, w, h);
    return {
      direction,
      halo: { width: w, height: h, runs: this.take(ordered, ordered.length), cells: halo.cells },
      body: { width: w, height: h, ...body },
      midX: w / 2,
      midY: h / 2,
      bodyTop: top,
      bodyBottom: bottom,
      bodyLeft: left,
      bodyRight: right,
      square,
      squareTop,
      squareLeft,
    };
  }
}

/** Cells by which a shape may differ from itself turned, as a share of those around it. */
const SAME = 0.02;

/** How many quarter turns of cells differ from those before: 1, 2 or 4. */
function differentTurns({ width, height, of }: Cells): 1 | 2 | 4 {
  const cells = width * height;
  const most = SAME * 2 * (width + height);
  let differ = 0;
  for (let i = 0; i < cells >> 1 && differ <= most; i++) if (of[i] !== of[cells - 1 - i]) differ += 2;
  if (differ > most) return 4;
  if (width !== height) return 2;
  differ = 0;
  for (let y = 0; y < height && differ <= most; y++)
    for (let x = 0; x < width; x++) if (of[y * width + x] !== of[x * width + (width - 1 - y)]) differ++;
  return differ > most ? 2 : 1;
}

/** Distance at a point of a field; beyond the field as at its border. */
function fieldAt(field: Field, x: number, y: number): number {
  const u = Math.max(0, Math.min(field.columns - 1.001, (x - field.left) / field.step));
  const v = Math.max(0, Math.min(field.rows - 1.001, (y - field.top) / field.step));
  const iu = Math.floor(u);
  const iv = Math.floor(v);
  const o = iv * field.columns + iu;
  const distance = field.distance;
  const e0 = distance[o] + (distance[o + 1] - distance[o]) * (u - iu);
  const e1 = distance[o + field.columns] + (distance[o + field.columns + 1] - distance[o + field.columns]) * (u - iu);
  return e0 + (e1 - e0) * (v - iv);
}

export function squareMask(side: number): RunMask {
  const runs = Array.from({ length: side }, (_, y) => [y, 0, side]).flat();
  return { width: side, height: side, runs: Int32Array.from(runs), cells: side * side };
}

/**
 * Runs ordered by length: long ones rule out most places, so a full row shows after a few of them.
 * @param out where they go @param starts a number for each length and two more are written over
 */
export function longestFirst(
  runs: Int32Array,
  out: Int32Array = new Int32Array(runs.length),
  starts?: Uint32Array,
): Int32Array {
  const count = runs.length / 3;
  let most = 0;
  for (let i = 0; i < count; i++) most = Math.max(most, runs[i * 3 + 2]);
  // Those of one length stay in their order.
  const places = starts ?? new Uint32Array(most + 2);
  places.fill(0, 0, most + 2);
  for (let i = 0; i < count; i++) places[most - runs[i * 3 + 2] + 1]++;
  for (let k = 1; k < most + 2; k++) places[k] += places[k - 1];
  for (let i = 0; i < count; i++) {
    const at = places[most - runs[i * 3 + 2]]++ * 3;
    out[at] = runs[i * 3];
    out[at + 1] = runs[i * 3 + 1];
    out[at + 2] = runs[i * 3 + 2];
  }
  return out;
}

/** Side, top row and left column of the largest full square in a mask. */
export function largestSquare(mask: Uint8Array, width: number, height: number): [number, number, number] {
  const row = new Int32Array(width + 1);
  let best = 0;
  let top = 0;
  let left = 0;
  for (let y = 0; y < height; y++) {
    let diagonal = 0;
    for (let x = 0; x < width; x++) {
      const above = row[x + 1];
      row[x + 1] = mask[y * width + x] ? Math.min(above, row[x], diagonal) + 1 : 0;
      diagonal = above;
      if (row[x + 1] > best) {
        best = row[x + 1];
        top = y - best + 1;
        left = x - best + 1;
      }
    }
  }
  return [best, top, left];
}
