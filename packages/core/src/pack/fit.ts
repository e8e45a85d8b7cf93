import { ROW } from '@wembrel/kernels/occupancy';
import { type Mask, RING, type Spot } from './masks.ts';

/** How the next body of a sketch is chosen: of the next few in the order, the one that is surrounded most closely where it would stand. */
export interface Fit {
  /** How many are looked at. */
  look: number;
  /** Closeness by which a body that counts nothing beside the first has to be better than it. */
  bias: number;
  /** Share of the sheet's height by which one may begin further along than the one that begins first. */
  band: number;
}

/** What is asked of a sheet. */
export interface Seating {
  /** Rows of the sheet. */
  readonly rows: number;
  /** Masks of a body, one a direction. */
  masksOf(body: number): readonly Mask[];
  /** The first place for a mask, and the next after one; null where there is none. */
  firstSpot(mask: Mask): Spot | null;
  nextSpot(spot: Spot): Spot | null;
  isFree(spot: Spot): boolean;
  /** How far along lies what is so many columns and rows from the upper left of a spot's halo, `ROW` a row. */
  along(spot: Spot, columns: number, rows: number): number;
  /** Share of the cells around it that are taken. */
  closeness(spot: Spot): number;
}

/** A body where it would stand in one of its directions. */
interface Seat {
  spot: Spot;
  closeness: number;
}

interface Candidate {
  body: number;
  position: number;
  seats: Seat[];
}

/** Says which body is placed next. */
export interface Choice {
  /** The next body, where it goes, and how far in the order that has been looked. */
  take(): { body: number; spot: Spot | null; position: number };
  /** A body has been placed there. */
  stood(spot: Spot): void;
}

/** The next bodies of an order, each with the first place for every direction, which are kept while others are placed. */
export class FitWindow implements Choice {
  private readonly window: Candidate[] = [];
  private at = 0;

  constructor(
    private readonly sketch: Seating,
    private readonly fit: Fit,
    private readonly order: readonly number[],
    private readonly keys: Float64Array,
    /** Bodies that stand already. */
    private readonly placed: ReadonlySet<number>,
  ) {}

  take(): { body: number; spot: Spot | null; position: number } {
    const { window, order, placed, fit, sketch, keys } = this;
    for (; window.length < fit.look && this.at < order.length; this.at++) {
      const body = order[this.at];
      if (placed.has(body)) continue;
      const seats = sketch.masksOf(body).flatMap((mask) => this.seat(sketch.firstSpot(mask)));
      window.push({ body, position: this.at, seats });
    }
    const position = window[window.length - 1].position;
    const beginning = (spot: Spot) => sketch.along(spot, spot.mask.bodyLeft, spot.mask.bodyTop);
    let top = Number.POSITIVE_INFINITY;
    for (const { seats } of window) for (const { spot } of seats) top = Math.min(top, beginning(spot));
    const lowest = top + fit.band * sketch.rows * ROW;
    let best: { k: number; seat: Seat; score: number } | null = null;
    const most = keys[window[0].body];
    for (const [k, { body, seats }] of window.entries()) {
      const less = fit.bias * (1 - keys[body] / most);
      for (const seat of seats) {
        const { spot } = seat;
        if (beginning(spot) > lowest) continue;
        const score = seat.closeness - less;
        if (!best || score > best.score) best = { k, seat, score };
      }
    }
    const [taken] = window.splice(best?.k ?? 0, 1);
    return { body: taken.body, spot: best?.seat.spot ?? null, position };
  }

  /** Looks anew at what is near to a body that has been placed. */
  stood({ mask, x, y }: Spot): void {
    const { sketch } = this;
    const [top, bottom, left, right] = [y + mask.bodyTop, y + mask.bodyBottom, x + mask.bodyLeft, x + mask.bodyRight];
    for (const candidate of this.window)
      for (let k = candidate.seats.length - 1; k >= 0; k--) {
        const seat = candidate.seats[k];
        const { spot } = seat;
        const { width, height } = spot.mask.halo;
        if (bottom < spot.y - RING || top >= spot.y + height + RING) continue;
        if (right < spot.x - RING || left >= spot.x + width + RING) continue;
        if (sketch.isFree(spot)) seat.closeness = sketch.closeness(spot);
        else candidate.seats.splice(k, 1, ...this.seat(sketch.nextSpot(spot)));
      }
  }

  private seat(spot: Spot | null): Seat[] {
    return spot ? [{ spot, closeness: this.sketch.closeness(spot) }] : [];
  }
}
