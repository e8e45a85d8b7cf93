import { ROW } from '@wembrel/kernels/occupancy';
import type { ChoiceRule } from './choice-rule.ts';
import type { GridPlace, Mask } from './masks.ts';
import { CONSTRUCTION } from './tuning.ts';

/** What is asked of a sheet. */
export interface PlacementGrid {
  /** Rows of the sheet. */
  readonly rows: number;
  /** Masks of a body, one a direction. */
  masksOf(body: number): readonly Mask[];
  /** The first place for a mask; null where there is none. */
  firstSpot(mask: Mask): GridPlace | null;
  /** The same where what was the first place may be one still: there or further along. */
  firstFrom(spot: GridPlace): GridPlace | null;
  /** How far along lies what is so many columns and rows from the upper left of a spot's halo, `ROW` a row. */
  along(spot: GridPlace, columns: number, rows: number): number;
  /** How far along the body of a mask begins at the least. */
  leastAlong(mask: Mask): number;
  /** Share of the cells around it that are taken. */
  closeness(spot: GridPlace): number;
}

/** A body in one of its directions, where it would stand. */
interface Seat {
  mask: Mask;
  /** Its first place; null: it has not been looked for. */
  spot: GridPlace | null;
  /** How far along it begins, at the least while it is not sure. */
  begin: number;
  /** Its place is known, and nothing has been put there since. */
  sure: boolean;
  /** NaN: not known. */
  closeness: number;
  /** What lies around it: the box of its halo with its ring, cells. */
  left: number;
  top: number;
  right: number;
  bottom: number;
}

interface Candidate {
  body: number;
  position: number;
  seats: Seat[];
}

/** A body that may be placed next: where, and how well that suits. */
export interface ChoiceOption {
  body: number;
  spot: GridPlace | null;
  score: number;
}

/** Says which body is placed next. */
export interface Choice {
  /** The next body, where it goes, and how far in the order that has been looked. */
  take(): { body: number; spot: GridPlace | null; position: number };
  /** A body has been placed there. */
  stood(spot: GridPlace): void;
}

/**
 * The next bodies of an order, each with the first place for every direction, which are kept while others are placed. A first place only moves
 * further along, so that it is looked for no sooner than it may count: most bodies wait in the window until the front has come to them.
 */
export class ChoiceWindow implements Choice {
  private readonly window: Candidate[] = [];
  private at = 0;

  constructor(
    private readonly grid: PlacementGrid,
    private readonly fit: ChoiceRule,
    private readonly order: readonly number[],
    private readonly keys: Float64Array,
    /** Bodies that stand already. */
    private readonly placed: ReadonlySet<number>,
  ) {}

  take(): { body: number; spot: GridPlace | null; position: number } {
    const [{ body, spot }] = this.options(1);
    const position = this.window[this.window.length - 1].position;
    this.remove(body);
    return { body, spot, position };
  }

  /** The bodies that would be taken next, each where it scores most: the best first, at least one. */
  options(most: number): ChoiceOption[] {
    const { window, order, placed, fit, grid, keys } = this;
    for (; window.length < fit.look && this.at < order.length; this.at++) {
      const body = order[this.at];
      if (placed.has(body)) continue;
      window.push({ body, position: this.at, seats: grid.masksOf(body).map((mask) => this.unsought(mask)) });
    }
    const lowest = this.lowestSeat(fit.band * grid.rows * ROW);
    const best: ChoiceOption[] = [];
    const first = keys[window[0].body];
    for (const { body, seats } of window) {
      const less = fit.bias * (1 - keys[body] / first);
      let bar = best.length < most ? Number.NEGATIVE_INFINITY : best[most - 1].score;
      let option: ChoiceOption | null = null;
      for (const seat of seats) {
        // No closeness is above 1.
        if (seat.begin > lowest || 1 - less <= bar) continue;
        const spot = seat.spot as GridPlace;
        if (Number.isNaN(seat.closeness)) seat.closeness = grid.closeness(spot);
        const score = seat.closeness - less;
        if (score <= bar) continue;
        bar = score;
        option = { body, spot, score };
      }
      if (!option) continue;
      let at = best.length;
      while (at > 0 && best[at - 1].score < option.score) at--;
      best.splice(at, 0, option);
      if (best.length > most) best.pop();
    }
    // Nothing has room: the first goes.
    return best.length > 0 ? best : [{ body: window[0].body, spot: null, score: -1 }];
  }

  /** It is placed now. */
  remove(body: number): void {
    const { window } = this;
    window.splice(
      window.findIndex((candidate) => candidate.body === body),
      1,
    );
  }

  /** The same, for a sheet that goes on differently. */
  clone(): ChoiceWindow {
    const { grid, fit, order, keys, placed } = this;
    const other = new ChoiceWindow(grid, fit, order, keys, placed);
    for (const { body, position, seats } of this.window)
      other.window.push({ body, position, seats: seats.map((seat) => ({ ...seat })) });
    other.at = this.at;
    return other;
  }

  /** Looks again at what is near to a body that has been placed. */
  stood({ mask, x, y }: GridPlace): void {
    const [top, bottom, left, right] = [y + mask.bodyTop, y + mask.bodyBottom, x + mask.bodyLeft, x + mask.bodyRight];
    for (const { seats } of this.window)
      for (const seat of seats) {
        if (bottom < seat.top || top >= seat.bottom || right < seat.left || left >= seat.right) continue;
        seat.sure = false;
        seat.closeness = Number.NaN;
      }
  }

  private unsought(mask: Mask): Seat {
    return {
      mask,
      spot: null,
      begin: this.grid.leastAlong(mask),
      sure: false,
      closeness: Number.NaN,
      left: 0,
      top: 0,
      right: 0,
      bottom: 0,
    };
  }

  /** Makes sure of all places that begin at most so much further along than the first. @returns how far along that is */
  private lowestSeat(band: number): number {
    let top = Number.POSITIVE_INFINITY;
    for (const { seats } of this.window) for (const seat of seats) if (seat.sure && seat.begin < top) top = seat.begin;
    for (const { seats } of this.window)
      for (let k = 0; k < seats.length; k++) {
        const seat = seats[k];
        if (seat.sure || seat.begin > top + band) continue;
        if (!this.find(seat)) {
          seats.splice(k--, 1);
          continue;
        }
        if (seat.begin < top) top = seat.begin;
      }
    return top + band;
  }

  /** Finds the first place as all stands now. @returns whether there is one */
  private find(seat: Seat): boolean {
    const { grid } = this;
    const { mask } = seat;
    const was = seat.spot;
    seat.sure = true;
    const spot = was ? grid.firstFrom(was) : grid.firstSpot(mask);
    if (!spot) return false;
    seat.spot = spot;
    seat.begin = grid.along(spot, mask.bodyLeft, mask.bodyTop);
    seat.left = spot.x - CONSTRUCTION.ring;
    seat.top = spot.y - CONSTRUCTION.ring;
    seat.right = spot.x + mask.halo.width + CONSTRUCTION.ring;
    seat.bottom = spot.y + mask.halo.height + CONSTRUCTION.ring;
    return true;
  }
}
