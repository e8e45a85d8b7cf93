import { ROW } from '@wembrel/kernels/occupancy';
import type { Fit } from './fit.ts';
import { type Drawn, type Way, worth } from './hunt.ts';
import { shakenOrder } from './orders.ts';
import type { Sketch } from './sketch.ts';
import type { Draft } from './sketcher.ts';
import type { Width } from './wide.ts';

/**
 * Where ways are looked for, of few and of more: the least and the greatest of each. What is good on one sheet is not what is good on many (the ones
 * of few from some 500 tries with 60 islands).
 */
interface Range {
  look: readonly [number, number];
  bias: readonly [number, number];
  band: readonly [number, number];
  /** How wide a new way is drawn, and one that begins like another. */
  fresh: Width;
  anew: Width;
  /** How much keys differ from the usual ones. */
  shake: number;
}

const FEW: Range = {
  look: [6, 30],
  bias: [0.7, 2],
  band: [0.015, 0.07],
  fresh: { sheets: 16, options: 4 },
  anew: { sheets: 16, options: 4 },
  shake: 0,
};
const MORE: Range = {
  look: [30, 90],
  bias: [0.4, 0.8],
  band: [0.03, 0.16],
  fresh: { sheets: 1, options: 1 },
  anew: { sheets: 4, options: 4 },
  shake: 0.01,
};
/** Greatest tilt of a front, rows a column. */
const TILT = 0.33;
/** Share of what is placed that goes into drawing the best ones anew. */
const ANEW = 0.5;
/** From where on: the share of bodies that stay, at least and at most. */
const STAY = [0.3, 0.8];
/** By how much keys and the choice differ then. */
const SHAKE = 0.02;
const OTHER = 0.3;
/** How many of the best are held on to. */
const POOL = 4;

/** The search for a way in which a sketch has room for all at one scale: new ways, and the best ones anew from somewhere on. */
export class WideHunt {
  /** Bodies that were placed, on all sheets. */
  placed = 0;
  private anew = 0;
  private readonly best: Drawn[] = [];
  private readonly range: Range;

  /**
   * @param scale the common scale that is hunted for @param sketch what it is drawn on @param orders the usual ones
   * @param few shapes, each of which is worth many looks
   */
  constructor(
    readonly scale: number,
    readonly sketch: Sketch,
    private readonly orders: readonly Float64Array[],
    few: boolean,
    private readonly random: () => number,
  ) {
    this.range = few ? FEW : MORE;
  }

  next(): Draft {
    const { random, best, range } = this;
    const count = this.orders[0].length;
    if (best.length === 0 || this.anew > ANEW * this.placed) {
      this.placed += count * range.fresh.sheets;
      return { way: this.newWay(), width: range.fresh };
    }
    const from = best[Math.floor(random() * random() * best.length)];
    const bodies = Math.floor(from.drawing.sequence.length * (STAY[0] + (STAY[1] - STAY[0]) * random()));
    const placed = (count - bodies) * range.anew.sheets;
    this.placed += placed;
    this.anew += placed;
    return { way: this.near(from), width: range.anew, from: { drawing: from.drawing, bodies } };
  }

  /** Holds on to a sketch that is among the best. @returns whether it is the best one */
  keep(drawn: Drawn): boolean {
    const { best } = this;
    const mine = worth(drawn);
    if (best.some((other) => worth(other) === mine)) return false;
    best.push(drawn);
    best.sort((a, b) => worth(a) - worth(b));
    best.length = Math.min(best.length, POOL);
    return best[0] === drawn;
  }

  private newWay(): Way {
    const { random, range, orders } = this;
    const between = ([low, high]: readonly [number, number], share = random()) => low + (high - low) * share;
    const keys = orders[random() < 0.8 ? 2 : 0];
    const far = random();
    const fit = {
      look: Math.round(between(range.look, far * far)),
      bias: between(range.bias),
      band: between(range.band),
    };
    const tilt = Math.round(TILT * random() * ROW);
    return { keys: range.shake > 0 ? shakenOrder(keys, random, range.shake) : keys, fit, tilt };
  }

  /** Nearly the same way. The front stays as it is, since it runs through what stays. */
  private near({ keys, fit, tilt }: Way): Way {
    const { random } = this;
    const vary = (v: number) => v * (1 + OTHER * (2 * random() - 1));
    const { look, bias, band } = fit as Fit;
    const other = { look: Math.max(2, Math.round(vary(look))), bias: vary(bias), band: vary(band) };
    return { keys: shakenOrder(keys, random, SHAKE), fit: other, tilt };
  }
}
