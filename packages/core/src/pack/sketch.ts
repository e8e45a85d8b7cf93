import type { RunMask } from '@wembrel/kernels/bitmap';
import type { Field } from '@wembrel/kernels/field';
import { FastOccupancy } from '@wembrel/kernels/occupancy';
import { QUARTERS } from './directions.ts';

/** What stands on a sheet for a sketch: a field and the size at which it is wanted. */
export interface SketchBody {
  field: Field;
  /** Px per px of the field. */
  size: number;
  /** Directions that are tried, as (cosine, sine). */
  directions: readonly (readonly [number, number])[];
  /** Where it stands already. */
  fixed?: { x: number; y: number; c: number; s: number };
}

export interface SketchPlace {
  x: number;
  y: number;
  c: number;
  s: number;
  /** Share of its height that lies below the sheet. */
  over: number;
}

interface Mask {
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
  square: number;
  squareTop: number;
}

/** Share of the sheet's height by which the grid goes on below it. */
const BELOW = 0.2;

/**
 * Places shapes from the upper left, each where it ends highest up, on a grid of cells that goes on below the sheet. Cells count by their
 * middles, so that neighbours may come too near by up to a cell: a sketch is to be separated afterwards.
 */
export class Sketch {
  private readonly grid: FastOccupancy;
  private readonly frame: number;
  private columns = 0;
  /** Rows of the sheet, and of the grid. */
  private rows = 0;
  private depth = 0;
  /** Px a cell: it grows with the shapes. */
  private side = 0;
  private readonly masks: Mask[][];

  constructor(
    private readonly bodies: readonly SketchBody[],
    private readonly width: number,
    private readonly height: number,
    private readonly margin: number,
    private readonly cell: number,
    /** Cells nearer than this to a shape are its own, cells. */
    private readonly reach: number,
  ) {
    this.frame = Math.ceil(margin / cell) + 2;
    this.enlarge(1);
    this.grid = new FastOccupancy(this.columns + 2 * this.frame, this.depth);
    this.masks = bodies.map((b) => this.masksOf(b, b.fixed ? [[b.fixed.c, b.fixed.s]] : b.directions));
  }

  /**
   * Takes all shapes as so much larger than they were given: the same cells on a sheet of fewer, which is right as long as the margin does
   * not differ by more than a small part of a cell.
   * @param factor at least 1
   */
  enlarge(factor: number): void {
    this.side = this.cell * factor;
    this.columns = Math.floor(this.width / this.side);
    this.rows = Math.floor(this.height / this.side);
    this.depth = Math.floor((this.height * (1 + BELOW)) / this.side);
  }

  /** Masks of a body in its directions: those after the first that are quarter turns of it are its cells, turned. */
  private masksOf(b: SketchBody, directions: readonly (readonly [number, number])[]): Mask[] {
    const first = this.cellsOf(b, directions[0]);
    return directions.map((d) => {
      const turns = QUARTERS.findIndex(
        ([c, s]) =>
          c * directions[0][0] - s * directions[0][1] === d[0] && s * directions[0][0] + c * directions[0][1] === d[1],
      );
      let cells = turns < 0 ? this.cellsOf(b, d) : first;
      for (let k = 0; k < turns; k++) cells = turnedCells(cells);
      return maskOf(cells, d);
    });
  }

  /** The cells of a body, about the middle of its box. */
  private cellsOf({ field, size }: SketchBody, [c, s]: readonly [number, number]): Cells {
    const { cell, margin } = this;
    const rx = (Math.abs(c) * field.halfWidth + Math.abs(s) * field.halfHeight) * size + margin;
    const ry = (Math.abs(s) * field.halfWidth + Math.abs(c) * field.halfHeight) * size + margin;
    // Rounded, so that rows of shapes are as often too near as too far apart.
    const width = Math.max(1, Math.round((2 * rx) / cell));
    const height = Math.max(1, Math.round((2 * ry) / cell));
    const of = new Uint8Array(width * height);
    const [halo, body] = [margin / size, (this.reach * cell) / size];
    for (let y = 0; y < height; y++) {
      const py = ((y + 0.5 - height / 2) * cell) / size;
      for (let x = 0; x < width; x++) {
        const px = ((x + 0.5 - width / 2) * cell) / size;
        const d = fieldAt(field, c * px + s * py, c * py - s * px);
        of[y * width + x] = d < body ? 2 : d < halo ? 1 : 0;
      }
    }
    return { width, height, of };
  }

  /**
   * @param order bodies, first to last
   * @returns a place for each body, which may lie below the sheet; null where there was no room there either
   */
  place(order: readonly number[], cancelled: () => boolean): (SketchPlace | null)[] {
    const { grid, masks, bodies, side, frame, columns, rows, depth } = this;
    grid.clear();
    const out: (SketchPlace | null)[] = bodies.map(() => null);
    const border = this.margin / 2 / side;
    bodies.forEach((b, i) => {
      if (!b.fixed) return;
      const m = masks[i][0];
      const at = [Math.round(b.fixed.x / side - m.midX), Math.round(b.fixed.y / side - m.midY)];
      grid.add(m.body, at[0] + frame, at[1]);
      out[i] = { ...b.fixed, over: 0 };
    });
    const squares = new Map<number, { mask: RunMask; row: number }>();
    const squareRow = (side: number): number => {
      let q = squares.get(side);
      if (!q) {
        q = { mask: squareMask(side), row: -side };
        squares.set(side, q);
      }
      while (q.row < depth && grid.firstFitWithin(q.mask, q.row, 0, frame + columns) < 0) q.row++;
      return q.row;
    };
    for (const i of order) {
      if (bodies[i].fixed) continue;
      if (cancelled()) break;
      let best: { m: Mask; x: number; y: number; end: number } | null = null;
      for (const m of masks[i]) {
        const first = Math.max(Math.ceil(border - m.bodyTop - 0.5), squareRow(m.square) - m.squareTop);
        let last = Math.floor(depth - border - m.bodyBottom - 0.5);
        if (best) last = Math.min(last, best.end - m.bodyBottom - 1);
        const minX = Math.ceil(border - m.bodyLeft - 0.5) + frame;
        const maxX = Math.floor(columns - border - m.bodyRight - 0.5) + frame;
        if (minX < 0) continue;
        const found = this.firstRow(m.halo, first, last, minX, maxX);
        if (found) best = { m, ...found, end: found.y + m.bodyBottom };
      }
      if (!best) continue;
      grid.add(best.m.body, best.x, best.y);
      const [c, s] = best.m.direction;
      const { midX, midY, bodyTop, bodyBottom } = best.m;
      // The last row of the body that lies on the sheet with the margin kept.
      const low = Math.floor(rows - border - 0.5);
      const over = Math.max(0, best.end - low) / (bodyBottom - bodyTop + 1);
      out[i] = { x: (best.x - frame + midX) * side, y: (best.y + midY) * side, c, s, over: Math.min(1, over) };
    }
    return out;
  }

  /** Rows may be negative where a halo sticks out above. */
  private firstRow(mask: RunMask, first: number, last: number, minX: number, maxX: number) {
    let y = first;
    for (; y < 0 && y <= last; y++) {
      const x = this.grid.firstFitWithin(mask, y, minX, maxX);
      if (x >= minX) return { x, y };
    }
    return this.grid.firstRow(mask, y, last, minX, maxX);
  }
}

/** Cells of a shape: 0 free, 1 too near to it, 2 its own. */
interface Cells {
  width: number;
  height: number;
  of: Uint8Array;
}

/** A quarter turn, from x towards y. */
function turnedCells({ width, height, of }: Cells): Cells {
  const out = new Uint8Array(of.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) out[x * height + (height - 1 - y)] = of[y * width + x];
  return { width: height, height: width, of: out };
}

/** Runs of cells that are at least of a kind, as (row, start, length). */
function runsOf({ width, height, of }: Cells, least: number): { runs: Int32Array; cells: number } {
  const runs = new Int32Array(3 * height * ((width + 1) >> 1));
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
  return { runs: runs.slice(0, n), cells };
}

function maskOf(of: Cells, direction: readonly [number, number]): Mask {
  const { width: w, height: h } = of;
  const halo = runsOf(of, 1);
  const body = runsOf(of, 2);
  let [top, bottom, left, right] = [h >> 1, h >> 1, w >> 1, w >> 1];
  const { runs } = body;
  if (runs.length > 0) {
    [top, bottom, left, right] = [runs[0], runs[runs.length - 3], w, -1];
    for (let i = 0; i < runs.length; i += 3) {
      left = Math.min(left, runs[i + 1]);
      right = Math.max(right, runs[i + 1] + runs[i + 2] - 1);
    }
  }
  const [square, squareTop] = largestSquare(of.of, w, h);
  return {
    direction,
    halo: { width: w, height: h, runs: longestFirst(halo.runs), cells: halo.cells },
    body: { width: w, height: h, ...body },
    midX: w / 2,
    midY: h / 2,
    bodyTop: top,
    bodyBottom: bottom,
    bodyLeft: left,
    bodyRight: right,
    square,
    squareTop,
  };
}

/** Distance at a point of a field; beyond the field as at its border. */
export function fieldAt(f: Field, x: number, y: number): number {
  const u = Math.max(0, Math.min(f.columns - 1.001, (x - f.left) / f.step));
  const v = Math.max(0, Math.min(f.rows - 1.001, (y - f.top) / f.step));
  const iu = Math.floor(u);
  const iv = Math.floor(v);
  const o = iv * f.columns + iu;
  const d = f.distance;
  const e0 = d[o] + (d[o + 1] - d[o]) * (u - iu);
  const e1 = d[o + f.columns] + (d[o + f.columns + 1] - d[o + f.columns]) * (u - iu);
  return e0 + (e1 - e0) * (v - iv);
}

function squareMask(side: number): RunMask {
  const runs = Array.from({ length: side }, (_, y) => [y, 0, side]).flat();
  return { width: side, height: side, runs: Int32Array.from(runs), cells: side * side };
}

/** Runs ordered by length: long ones rule out most places, so a full row shows after a few of them. */
export function longestFirst(runs: ArrayLike<number>): Int32Array {
  const count = runs.length / 3;
  let most = 0;
  for (let i = 0; i < count; i++) most = Math.max(most, runs[i * 3 + 2]);
  // Those of one length stay in their order.
  const starts = new Uint32Array(most + 2);
  for (let i = 0; i < count; i++) starts[most - runs[i * 3 + 2] + 1]++;
  for (let k = 1; k < starts.length; k++) starts[k] += starts[k - 1];
  const out = new Int32Array(runs.length);
  for (let i = 0; i < count; i++) {
    const at = starts[most - runs[i * 3 + 2]]++ * 3;
    for (let k = 0; k < 3; k++) out[at + k] = runs[i * 3 + k];
  }
  return out;
}

/** Side and top row of the largest full square in a mask. */
export function largestSquare(mask: Uint8Array, width: number, height: number): [number, number] {
  const row = new Int32Array(width + 1);
  let best = 0;
  let top = 0;
  for (let y = 0; y < height; y++) {
    let diagonal = 0;
    for (let x = 0; x < width; x++) {
      const above = row[x + 1];
      row[x + 1] = mask[y * width + x] ? Math.min(above, row[x], diagonal) + 1 : 0;
      diagonal = above;
      if (row[x + 1] > best) {
        best = row[x + 1];
        top = y - best + 1;
      }
    }
  }
  return [best, top];
}
