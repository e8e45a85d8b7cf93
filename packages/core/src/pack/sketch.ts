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

/** Where all stand once they have been sketched in an order. */
export interface Drawing {
  order: readonly number[];
  /** A place for each body, which may lie below the sheet; null where there was no room there either. */
  places: (SketchPlace | null)[];
  /** Area that lies below the sheet, px², with that of bodies without room. */
  missing: number;
  /** The masks in their cells, by body, for another sketch that begins alike. */
  spots: (Spot | null)[];
  /** Px a cell. */
  side: number;
}

interface Spot {
  mask: Mask;
  x: number;
  y: number;
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
  private readonly squares = new Map<number, RunMask>();
  /** Row down to which there is no room for a square, by its side. */
  private readonly squareRows = new Map<number, number>();

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
   * Those that come first in both orders stand as they stood in a drawing from before.
   * @param order bodies, first to last; fixed ones are there already
   * @param most px² that may be missing
   * @returns null as soon as more is missing, or when cancelled
   */
  draw(order: readonly number[], o: { cancelled: () => boolean; most?: number; like?: Drawing }): Drawing | null {
    const { grid, bodies, side } = this;
    grid.clear();
    this.squareRows.clear();
    const spots: (Spot | null)[] = bodies.map(() => null);
    const places: (SketchPlace | null)[] = bodies.map(() => null);
    bodies.forEach(({ fixed }, i) => {
      if (!fixed) return;
      const mask = this.masks[i][0];
      const at = [Math.round(fixed.x / side - mask.midX), Math.round(fixed.y / side - mask.midY)];
      spots[i] = { mask, x: at[0] + this.frame, y: at[1] };
      places[i] = { ...fixed, over: 0 };
      grid.add(mask.body, at[0] + this.frame, at[1]);
    });
    const { like, most = Number.POSITIVE_INFINITY } = o;
    let known = 0;
    if (like && like.side === side) while (known < order.length && like.order[known] === order[known]) known++;
    let missing = 0;
    for (let k = 0; k < order.length; k++) {
      const i = order[k];
      const { field, size, fixed } = bodies[i];
      if (fixed) continue;
      if (o.cancelled()) return null;
      const spot = like && k < known ? like.spots[i] : this.spotFor(i);
      const place = spot && this.placeOf(spot);
      spots[i] = spot;
      places[i] = place;
      missing += (place ? place.over : 1) * field.area * (size * (side / this.cell)) ** 2;
      if (missing > most) return null;
      if (spot) grid.add(spot.mask.body, spot.x, spot.y);
    }
    return { order, places, missing, spots, side };
  }

  /** Where a body ends highest up among what stands there, in one of its directions. */
  private spotFor(i: number): Spot | null {
    const { side, frame, columns, depth } = this;
    const border = this.margin / 2 / side;
    let best: Spot | null = null;
    for (const mask of this.masks[i]) {
      const first = Math.max(Math.ceil(border - mask.bodyTop - 0.5), this.squareRow(mask.square) - mask.squareTop);
      let last = Math.floor(depth - border - mask.bodyBottom - 0.5);
      if (best) last = Math.min(last, best.y + best.mask.bodyBottom - mask.bodyBottom - 1);
      const minX = Math.ceil(border - mask.bodyLeft - 0.5) + frame;
      const maxX = Math.floor(columns - border - mask.bodyRight - 0.5) + frame;
      if (minX < 0) continue;
      const found = this.firstRow(mask.halo, first, last, minX, maxX);
      if (found) best = { mask, ...found };
    }
    return best;
  }

  private placeOf({ mask, x, y }: Spot): SketchPlace {
    const { side, frame, rows } = this;
    const [c, s] = mask.direction;
    // The last row of the body that lies on the sheet with the margin kept.
    const low = Math.floor(rows - this.margin / 2 / side - 0.5);
    const over = Math.max(0, y + mask.bodyBottom - low) / (mask.bodyBottom - mask.bodyTop + 1);
    return { x: (x - frame + mask.midX) * side, y: (y + mask.midY) * side, c, s, over: Math.min(1, over) };
  }

  /** The first row at which there is room for a square; it only moves down while bodies are added. */
  private squareRow(side: number): number {
    const { grid, depth, frame, columns } = this;
    let mask = this.squares.get(side);
    if (!mask) {
      mask = squareMask(side);
      this.squares.set(side, mask);
    }
    let row = this.squareRows.get(side) ?? -side;
    while (row < depth && grid.firstFitWithin(mask, row, 0, frame + columns) < 0) row++;
    this.squareRows.set(side, row);
    return row;
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
