import type { Field } from '@wembrel/kernels/field';
import { Occupancy, ROW } from '@wembrel/kernels/occupancy';
import type { RunMask } from '@wembrel/kernels/run-mask';
import type { ChoiceRule } from './choice-rule.ts';
import { type Choice, ChoiceWindow, type PlacementGrid } from './choice-window.ts';
import { type GridPlace, type Mask, MaskMaker, squareMask } from './masks.ts';
import { CONSTRUCTION } from './tuning.ts';

/** What stands on a sheet for a construction: a field and the size at which it is wanted. */
export interface GridShape {
  field: Field;
  /** Px per px of the field. */
  size: number;
  /** Directions that are tried, as (cosine, sine), each a quarter turn after the one before. */
  directions: readonly (readonly [number, number])[];
  /** Where it stands already. */
  fixed?: { x: number; y: number; c: number; s: number };
}

export interface ConstructedPlace {
  x: number;
  y: number;
  c: number;
  s: number;
  /** Share of its height that lies below the sheet. */
  over: number;
}

/** What is drawn: bodies with their keys, the greatest first; fixed ones are there already. */
export interface ConstructionOrder {
  order: readonly number[];
  /** By body. */
  keys: Float64Array;
  /** How the next body is chosen; null: in the order, each where it ends least far along. */
  fit: ChoiceRule | null;
  /**
   * How much sooner columns to the left come, in parts of `ROW`: of two places the one further along in `ROW` · row + tilt · column is the later
   * one. At 0 all is filled row by row; else the front run at a slant and is short when the last come, so that less is lost at the end.
   */
  tilt: number;
}

/** Where all stand once they have been constructed in an order. */
export interface Construction extends ConstructionOrder {
  /** A place for each body, which may lie below the sheet; null where there was no room there either. */
  places: (ConstructedPlace | null)[];
  /** Area that lies below the sheet, px², with that of bodies without room. */
  missing: number;
  /** How far down the sheet is filled, as a share of its height: where the lowest in each column ends, on average, and at most. */
  depth: number;
  end: number;
  /** The masks in their cells, by body, for another construction that begins alike. */
  spots: (GridPlace | null)[];
  /** Bodies as they were placed, and how far in the order the choice looked each time. */
  sequence: number[];
  looked: number[];
  /** Px a cell. */
  side: number;
}

/** What does not lie on the sheet lies so much further along. */
const BEYOND = 1 << 28;

/**
 * Places shapes from the upper left, one after another, on a grid of cells that goes on below the sheet. Cells count by their
 * middles, so that neighbours may come too near by up to a cell: a construction is to be separated afterwards.
 */
export class ConstructionGrid implements PlacementGrid {
  private readonly occupancy: Occupancy;
  private readonly frame: number;
  private columns = 0;
  /** Rows of the sheet, and of the grid. */
  rows = 0;
  private depth = 0;
  /** Px a cell: it grows with the shapes. */
  private side = 0;
  private tilt = 0;
  private readonly maker: MaskMaker;
  private readonly masks: Mask[][];
  private readonly squares = new Map<number, RunMask>();
  /** How far along there is no room for a square, by its side: true as long as nothing leaves. */
  squaresFrom = new Map<number, number>();

  constructor(
    private readonly bodies: readonly GridShape[],
    private readonly width: number,
    private readonly height: number,
    private readonly margin: number,
    private readonly cell: number,
    /** Cells nearer than this to a shape are its own, cells. */
    reach: number,
    /** See `MaskMaker`. */
    always = false,
  ) {
    this.frame = Math.ceil(margin / cell) + 2;
    this.enlarge(1);
    this.occupancy = new Occupancy(this.columns + 2 * this.frame, this.depth);
    this.maker = new MaskMaker(margin, cell, reach, always);
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
    this.depth = Math.floor((this.height * (1 + CONSTRUCTION.below)) / this.side);
  }

  /**
   * What begins as a drawing from before stands as it stood there.
   * @param most px² that may be missing
   * @returns null as soon as more is missing, or when cancelled
   */
  construct(
    what: ConstructionOrder,
    o: { cancelled: () => boolean; most?: number; like?: Construction },
  ): Construction | null {
    const { most = Number.POSITIVE_INFINITY, like } = o;
    const { order, spots } = this.begin(what);
    const sequence: number[] = [];
    const looked: number[] = [];
    let missing = 0;
    const stand = (i: number, spot: GridPlace | null, position: number): boolean => {
      spots[i] = spot;
      sequence.push(i);
      looked.push(position);
      missing += this.missingOf(i, spot);
      if (missing > most) return false;
      this.stand(spot);
      return true;
    };
    const known = like && like.side === this.side ? alike({ ...what, order }, like) : 0;
    for (let k = 0; k < known && like; k++) {
      const i = like.sequence[k];
      if (!stand(i, like.spots[i], like.looked[k])) return null;
    }
    const next: Choice = what.fit
      ? new ChoiceWindow(this, what.fit, order, what.keys, new Set(sequence))
      : new InOrder(this, order, known);
    for (let k = known; k < order.length; k++) {
      if (o.cancelled()) return null;
      const { body, spot, position } = next.take();
      if (!stand(body, spot, position)) return null;
      if (spot) next.stood(spot);
    }
    return this.constructionOf({ ...what, order }, { spots, sequence, looked, missing });
  }

  /** Clears the sheet but for fixed bodies. @returns the others in their order, and where all stand */
  begin({ order, tilt }: ConstructionOrder): { order: number[]; spots: (GridPlace | null)[] } {
    const { bodies, side, frame } = this;
    this.occupancy.clear();
    this.tilt = tilt;
    this.squaresFrom = new Map();
    const spots = bodies.map(({ fixed }, i) => {
      if (!fixed) return null;
      const [mask] = this.masks[i];
      const spot = {
        mask,
        x: Math.round(fixed.x / side - mask.midX) + frame,
        y: Math.round(fixed.y / side - mask.midY),
      };
      this.stand(spot);
      return spot;
    });
    return { order: order.filter((i) => !bodies[i].fixed), spots };
  }

  /** Takes the cells of a body. */
  stand(spot: GridPlace | null): void {
    if (spot) this.occupancy.add(spot.mask.body, spot.x, spot.y);
  }

  /** Frees them again. What is known of squares has to be replaced then. */
  leave(spot: GridPlace | null): void {
    if (spot) this.occupancy.remove(spot.mask.body, spot.x, spot.y);
  }

  /** Area of a body that a place leaves below the sheet, px²: all of it where it has none. */
  missingOf(i: number, spot: GridPlace | null): number {
    const { field, size } = this.bodies[i];
    const px = (size * this.side) / this.cell;
    return (spot ? this.placeOf(spot).over : 1) * field.area * px * px;
  }

  /** What is drawn once all stand. */
  constructionOf(
    what: ConstructionOrder,
    done: { spots: (GridPlace | null)[]; sequence: number[]; looked: number[]; missing: number },
  ): Construction {
    const { bodies, side } = this;
    const places = done.spots.map((spot, i) => {
      const { fixed } = bodies[i];
      return fixed ? { ...fixed, over: 0 } : spot && this.placeOf(spot);
    });
    return { ...what, ...done, places, ...this.filled(done.spots), side };
  }

  /** How far down the sheet is filled, on average and at most. */
  private filled(spots: readonly (GridPlace | null)[]): { depth: number; end: number } {
    const { columns, frame, rows } = this;
    const ends = new Int32Array(columns);
    for (const spot of spots) {
      if (!spot) continue;
      const { mask, x, y } = spot;
      const right = Math.min(columns - 1, x + mask.bodyRight - frame);
      for (let k = Math.max(0, x + mask.bodyLeft - frame); k <= right; k++)
        ends[k] = Math.max(ends[k], y + mask.bodyBottom + 1);
    }
    const depth = ends.reduce((sum, end) => sum + end, 0) / Math.max(1, columns * rows);
    return { depth, end: ends.reduce((greatest, end) => Math.max(greatest, end), 0) / Math.max(1, rows) };
  }

  /** Masks of a body, one a direction. */
  masksOf(i: number): readonly Mask[] {
    return this.masks[i];
  }

  /** How far along the upper left of a spot's halo lies, or what is so many columns and rows from it. */
  along({ mask, x, y }: GridPlace, columns = 0, rows = 0): number {
    if (y > this.lastRow(mask)) return BEYOND + ROW * (y + rows);
    return ROW * (y + rows) + this.tilt * (x + columns);
  }

  /** The place for a mask that lies least far along, between bounds. */
  firstSpot(mask: Mask, least = -BEYOND, most = 2 * BEYOND, start?: GridPlace): GridPlace | null {
    const { minX, maxX, minY, maxY } = this.reachOf(mask);
    if (minX < 0 || maxX < minX) return null;
    const last = this.lastRow(mask);
    const square = this.squareAlong(mask);
    if (least < BEYOND) {
      const within = { least: Math.max(least, square), most: Math.min(most, BEYOND - 1) };
      const found = this.search(mask.halo, [minY, last], [minX, maxX], within, start);
      if (found) return { mask, ...found };
    }
    const from = Math.max(last + 1, Math.ceil((least - BEYOND) / ROW), Math.ceil((square - this.tilt * maxX) / ROW));
    const to = Math.min(maxY, Math.floor((most - BEYOND) / ROW));
    const first = start?.y === from ? start.x : minX;
    const found = to < from ? null : this.occupancy.firstRow(mask.halo, from, to, minX, maxX, first);
    return found && { mask, ...found };
  }

  /** The first place for a mask of which that was the first before: it is not sooner now. */
  firstFrom(spot: GridPlace): GridPlace | null {
    return this.firstSpot(spot.mask, this.along(spot), 2 * BEYOND, spot);
  }

  /** How far along the upper left of a mask lies at the least: where its largest square has no room it has none. */
  private squareAlong(mask: Mask): number {
    return this.squareFrom(mask.square) - ROW * mask.squareTop - this.tilt * mask.squareLeft;
  }

  /** How far along the body of a mask begins at the least. */
  leastAlong(mask: Mask): number {
    return this.squareAlong(mask) + ROW * mask.bodyTop + this.tilt * mask.bodyLeft;
  }

  /**
   * The place that lies least far along, for the upper left of cells, in rows and columns that are given and between bounds. Row by row (no
   * tilt) it may be known that there is none sooner than `start`.
   */
  private search(
    cells: RunMask,
    [firstRow, lastRow]: readonly [number, number],
    [left, right]: readonly [number, number],
    { least, most }: { least: number; most: number },
    start?: { x: number; y: number },
  ): { x: number; y: number } | null {
    const { tilt, occupancy } = this;
    const from = Math.max(firstRow, Math.ceil((least - tilt * right) / ROW));
    const to = Math.min(lastRow, Math.floor((most - tilt * left) / ROW));
    const leftOf = (y: number) => (start?.y === y ? start.x : left);
    let best: { x: number; y: number } | null = null;
    let bound = most;
    // Rows in which they stick out above.
    for (let y = from; y < 0 && y <= to; y++) {
      const first = tilt > 0 ? Math.max(left, Math.ceil((least - ROW * y) / tilt)) : leftOf(y);
      const last = tilt > 0 ? Math.min(right, Math.floor((bound - ROW * y) / tilt)) : right;
      const x = occupancy.firstFitWithin(cells, y, first, last);
      if (x < first) continue;
      best = { x, y };
      if (tilt === 0) return best;
      bound = ROW * y + tilt * x - 1;
    }
    const row = Math.max(0, from);
    if (tilt === 0) return occupancy.firstRow(cells, row, to, left, right, leftOf(row));
    return occupancy.firstAlong(cells, row, to, left, right, { tilt, least, most: bound }) ?? best;
  }

  /** The last row of a halo at which its body lies on the sheet, with the margin kept. */
  private lastRow(mask: Mask): number {
    return Math.floor(this.rows - this.margin / 2 / this.side - mask.bodyBottom - 0.5);
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

  /** Share of the cells around a halo that are taken or lie above or beside the sheet. */
  closeness({ mask, x, y }: GridPlace): number {
    const ring = this.maker.ringOf(mask);
    const { frame, columns, occupancy } = this;
    return (
      occupancy.taken(ring, x - CONSTRUCTION.ring, y - CONSTRUCTION.ring, frame, frame + columns) /
      Math.max(1, ring.cells)
    );
  }

  /** Where a body ends least far along among what stands there, in one of its directions. */
  nearest(i: number): GridPlace | null {
    let best: GridPlace | null = null;
    let end = 2 * BEYOND;
    for (const mask of this.masks[i]) {
      const spot = this.firstSpot(mask, -BEYOND, end - 1 - ROW * mask.bodyBottom - this.tilt * mask.bodyRight);
      if (!spot) continue;
      best = spot;
      end = this.along(spot, mask.bodyRight, mask.bodyBottom);
    }
    return best;
  }

  private placeOf({ mask, x, y }: GridPlace): ConstructedPlace {
    const { side, frame } = this;
    const [c, s] = mask.direction;
    const over = Math.max(0, y - this.lastRow(mask)) / (mask.bodyBottom - mask.bodyTop + 1);
    return { x: (x - frame + mask.midX) * side, y: (y + mask.midY) * side, c, s, over: Math.min(1, over) };
  }

  /** How far along there is room for a square for the first time; it only moves on while bodies are added. */
  private squareFrom(side: number): number {
    const { depth, frame, columns, tilt } = this;
    let mask = this.squares.get(side);
    if (!mask) {
      mask = squareMask(side);
      this.squares.set(side, mask);
    }
    const from = this.squaresFrom.get(side) ?? -BEYOND;
    const found = this.search(mask, [-side, depth], [0, frame + columns], { least: from, most: BEYOND });
    const along = found ? ROW * found.y + tilt * found.x : BEYOND;
    this.squaresFrom.set(side, along);
    return along;
  }
}

/** How many bodies are placed in two drawings before anything differs that a choice looked at. */
function alike(what: ConstructionOrder, like: Construction): number {
  if (what.fit !== like.fit || what.tilt !== like.tilt) return 0;
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
class InOrder implements Choice {
  constructor(
    private readonly grid: ConstructionGrid,
    private readonly order: readonly number[],
    private at: number,
  ) {}

  take(): { body: number; spot: GridPlace | null; position: number } {
    const position = this.at++;
    const body = this.order[position];
    return { body, spot: this.grid.nearest(body), position };
  }

  /** What comes next stays the same. */
  stood(): void {}
}
