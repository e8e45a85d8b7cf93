import type { RunMask } from '@wembrel/kernels/bitmap';
import type { Field } from '@wembrel/kernels/field';
import { FastOccupancy } from '@wembrel/kernels/occupancy';
import { type Mask, MaskMaker, squareMask } from './masks.ts';

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
    reach: number,
  ) {
    this.frame = Math.ceil(margin / cell) + 2;
    this.enlarge(1);
    this.grid = new FastOccupancy(this.columns + 2 * this.frame, this.depth);
    const maker = new MaskMaker(margin, cell, reach);
    this.masks = bodies.map(({ field, size, fixed, directions }) =>
      maker.masksOf(field, size, fixed ? [[fixed.c, fixed.s]] : directions),
    );
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
