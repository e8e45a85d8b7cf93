import type { RunMask } from '@wembrel/kernels/bitmap';
import type { Field } from '@wembrel/kernels/field';
import { FastOccupancy } from '@wembrel/kernels/occupancy';
import { type Fit, FitWindow, type Seating } from './fit.ts';
import { type Mask, MaskMaker, RING, type Spot, squareMask } from './masks.ts';

/** What stands on a sheet for a sketch: a field and the size at which it is wanted. */
export interface SketchBody {
  field: Field;
  /** Px per px of the field. */
  size: number;
  /** Directions that are tried, as (cosine, sine), each a quarter turn after the one before. */
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

/** What is drawn: bodies with their keys, the greatest first; fixed ones are there already. */
export interface DrawOrder {
  order: readonly number[];
  /** By body. */
  keys: Float64Array;
  /** How the next body is chosen; null: in the order, each where it ends highest up. */
  fit: Fit | null;
}

/** Where all stand once they have been sketched in an order. */
export interface Drawing extends DrawOrder {
  /** A place for each body, which may lie below the sheet; null where there was no room there either. */
  places: (SketchPlace | null)[];
  /** Area that lies below the sheet, px², with that of bodies without room. */
  missing: number;
  /** How far down the sheet is filled, as a share of its height: where the lowest in each column ends, on average, and at most. */
  depth: number;
  end: number;
  /** The masks in their cells, by body, for another sketch that begins alike. */
  spots: (Spot | null)[];
  /** Bodies as they were placed, and how far in the order the choice looked each time. */
  sequence: number[];
  looked: number[];
  /** Px a cell. */
  side: number;
}

/** Share of the sheet's height by which the grid goes on below it. */
const BELOW = 0.2;

/**
 * Places shapes from the upper left, one after another, on a grid of cells that goes on below the sheet. Cells count by their
 * middles, so that neighbours may come too near by up to a cell: a sketch is to be separated afterwards.
 */
export class Sketch implements Seating {
  private readonly grid: FastOccupancy;
  private readonly frame: number;
  private columns = 0;
  /** Rows of the sheet, and of the grid. */
  rows = 0;
  private depth = 0;
  /** Px a cell: it grows with the shapes. */
  private side = 0;
  private readonly maker: MaskMaker;
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
    this.maker = new MaskMaker(margin, cell, reach);
    this.masks = bodies.map(({ field, size, fixed, directions }) =>
      this.maker.masksOf(field, size, fixed ? [[fixed.c, fixed.s]] : directions),
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
   * What begins as a drawing from before stands as it stood there.
   * @param most px² that may be missing
   * @returns null as soon as more is missing, or when cancelled
   */
  draw(what: DrawOrder, o: { cancelled: () => boolean; most?: number; like?: Drawing }): Drawing | null {
    const { grid, bodies, side } = this;
    const { most = Number.POSITIVE_INFINITY } = o;
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
    const order = what.order.filter((i) => !bodies[i].fixed);
    const sequence: number[] = [];
    const looked: number[] = [];
    let missing = 0;
    const growth = side / this.cell;
    const stand = (i: number, spot: Spot | null, position: number): boolean => {
      const { field, size } = bodies[i];
      const place = spot && this.placeOf(spot);
      spots[i] = spot;
      places[i] = place;
      sequence.push(i);
      looked.push(position);
      missing += (place ? place.over : 1) * field.area * size * size * growth * growth;
      if (missing > most) return false;
      if (spot) grid.add(spot.mask.body, spot.x, spot.y);
      return true;
    };
    const { like } = o;
    const known = like && like.side === side ? alike({ ...what, order }, like) : 0;
    for (let k = 0; k < known && like; k++) {
      const i = like.sequence[k];
      if (!stand(i, like.spots[i], like.looked[k])) return null;
    }
    const next = what.fit
      ? new FitWindow(this, what.fit, order, what.keys, new Set(sequence))
      : new InOrder(this, order, known);
    for (let k = known; k < order.length; k++) {
      if (o.cancelled()) return null;
      const { body, spot, position } = next.take();
      if (!stand(body, spot, position)) return null;
      if (spot) next.stood(spot);
    }
    return { ...what, order, places, missing, ...this.filled(spots), spots, sequence, looked, side };
  }

  /** How far down the sheet is filled, on average and at most. */
  private filled(spots: readonly (Spot | null)[]): { depth: number; end: number } {
    const { columns, frame, rows } = this;
    const ends = new Int32Array(columns);
    for (const spot of spots) {
      if (!spot) continue;
      const { mask, x, y } = spot;
      const right = Math.min(columns - 1, x + mask.bodyRight - frame);
      for (let k = Math.max(0, x + mask.bodyLeft - frame); k <= right; k++)
        ends[k] = Math.max(ends[k], y + mask.bodyBottom + 1);
    }
    const depth = ends.reduce((a, b) => a + b, 0) / Math.max(1, columns * rows);
    return { depth, end: ends.reduce((a, b) => Math.max(a, b), 0) / Math.max(1, rows) };
  }

  /** Masks of a body, one a direction. */
  masksOf(i: number): readonly Mask[] {
    return this.masks[i];
  }

  /** The first place for a mask from a row on, at which it ends no lower than `end`. */
  firstSpot(mask: Mask, from: number, end = Number.POSITIVE_INFINITY): Spot | null {
    const { minX, maxX, minY, maxY } = this.reachOf(mask);
    const first = Math.max(from, minY, this.squareRow(mask.square) - mask.squareTop);
    if (minX < 0) return null;
    const found = this.firstRow(mask.halo, first, Math.min(maxY, end - mask.bodyBottom), minX, maxX);
    return found && { mask, ...found };
  }

  /** The first place for a mask after one that was the first before. */
  nextSpot({ mask, x, y }: Spot): Spot | null {
    const { maxX } = this.reachOf(mask);
    if (x >= maxX) return this.firstSpot(mask, y + 1);
    const beside = this.grid.firstFitWithin(mask.halo, y, x + 1, maxX);
    return beside > x ? { mask, x: beside, y } : this.firstSpot(mask, y + 1);
  }

  /** Where the upper left of a halo may lie. */
  private reachOf(mask: Mask): { minX: number; maxX: number; minY: number; maxY: number } {
    const border = this.margin / 2 / this.side;
    return {
      minX: Math.ceil(border - mask.bodyLeft - 0.5) + this.frame,
      maxX: Math.floor(this.columns - border - mask.bodyRight - 0.5) + this.frame,
      minY: Math.ceil(border - mask.bodyTop - 0.5),
      maxY: Math.floor(this.depth - border - mask.bodyBottom - 0.5),
    };
  }

  /** Whether a place is still free. */
  isFree({ mask, x, y }: Spot): boolean {
    return this.grid.firstFitWithin(mask.halo, y, x, x) === x;
  }

  /** Share of the cells around a halo that are taken or lie above or beside the sheet. */
  closeness({ mask, x, y }: Spot): number {
    const ring = this.maker.ringOf(mask);
    const { frame, columns, grid } = this;
    return grid.taken(ring, x - RING, y - RING, frame, frame + columns) / Math.max(1, ring.cells);
  }

  /** Where a body ends highest up among what stands there, in one of its directions. */
  highest(i: number): Spot | null {
    let best: Spot | null = null;
    for (const mask of this.masks[i]) {
      const end: number | undefined = best ? best.y + best.mask.bodyBottom - 1 : undefined;
      best = this.firstSpot(mask, Number.NEGATIVE_INFINITY, end) ?? best;
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

/** How many bodies are placed in two drawings before anything differs that a choice looked at. */
function alike(what: DrawOrder, like: Drawing): number {
  if (what.fit !== like.fit) return 0;
  let same = 0;
  const { order, keys } = what;
  while (same < like.order.length && order[same] === like.order[same]) {
    if (what.fit && keys[order[same]] !== like.keys[order[same]]) break;
    same++;
  }
  let known = 0;
  while (known < like.looked.length && like.looked[known] < same) known++;
  return known;
}

/** Bodies as they come in the order. */
class InOrder {
  constructor(
    private readonly sketch: Sketch,
    private readonly order: readonly number[],
    private at: number,
  ) {}

  take(): { body: number; spot: Spot | null; position: number } {
    const position = this.at++;
    const body = this.order[position];
    return { body, spot: this.sketch.highest(body), position };
  }

  stood(): void {}
}
