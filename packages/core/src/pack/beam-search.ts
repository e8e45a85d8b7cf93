import { ROW } from '@wembrel/kernels/occupancy';
import type { BeamWidth } from './beam-construction.ts';
import type { ChoiceRule } from './choice-window.ts';
import type { ConstructionGrid } from './construction-grid.ts';
import type { BeamTask } from './layout-builder.ts';
import { perturbedOrder } from './orders.ts';
import { type Candidate, candidateCost, type SearchParameters } from './search-parameters.ts';

/**
 * Where search parameters are looked for, of few and of more: the least and the greatest of each. What is good on one sheet is not what is good on many (the ones
 * of few from some 500 tries with 60 islands).
 */
interface ParameterRange {
  look: readonly [number, number];
  bias: readonly [number, number];
  band: readonly [number, number];
  /** How wide a new way is drawn, and one that begins like another. */
  fresh: BeamWidth;
  anew: BeamWidth;
  /** How much keys differ from the usual ones. */
  shake: number;
}

const FEW: ParameterRange = {
  look: [6, 30],
  bias: [0.7, 2],
  band: [0.015, 0.07],
  fresh: { sheets: 16, options: 4 },
  anew: { sheets: 16, options: 4 },
  shake: 0,
};
const MORE: ParameterRange = {
  look: [30, 90],
  bias: [0.4, 0.8],
  band: [0.03, 0.16],
  fresh: { sheets: 1, options: 1 },
  anew: { sheets: 4, options: 4 },
  shake: 0.01,
};
/** Greatest tilt of a front, rows a column. */
const TILT = 0.33;
/** Share of what is placed that goes into drawing the best ones again. */
const ANEW = 0.5;
/** From where on: the share of bodies that stay, at least and at most. */
const STAY = [0.3, 0.8];
/** By how much keys and the choice differ then. */
const SHAKE = 0.02;
const OTHER = 0.3;
/** How many of the best are held on to. */
const POOL = 4;

/** The search for a set of search parameters in which a construction has room for all at one scale: new search parameters, and the best ones again from somewhere on. */
export class BeamSearch {
  /** Bodies that were placed, on all sheets. */
  placed = 0;
  private anew = 0;
  private readonly best: Candidate[] = [];
  private readonly range: ParameterRange;

  /**
   * @param scale the common scale that is searched for @param construction what it is drawn on @param orders the usual ones
   * @param few shapes, each of which is worth many looks
   */
  constructor(
    readonly scale: number,
    readonly grid: ConstructionGrid,
    private readonly orders: readonly Float64Array[],
    few: boolean,
    private readonly random: () => number,
  ) {
    this.range = few ? FEW : MORE;
  }

  next(): BeamTask {
    const { random, best, range } = this;
    const count = this.orders[0].length;
    if (best.length === 0 || this.anew > ANEW * this.placed) {
      this.placed += count * range.fresh.sheets;
      return { parameters: this.newWay(), width: range.fresh };
    }
    const from = best[Math.floor(random() * random() * best.length)];
    const bodies = Math.floor(from.construction.sequence.length * (STAY[0] + (STAY[1] - STAY[0]) * random()));
    const placed = (count - bodies) * range.anew.sheets;
    this.placed += placed;
    this.anew += placed;
    return { parameters: this.near(from), width: range.anew, from: { construction: from.construction, bodies } };
  }

  /** Holds on to a construction that is among the best. @returns whether it is the best one */
  keep(candidate: Candidate): boolean {
    const { best } = this;
    const mine = candidateCost(candidate);
    if (best.some((other) => candidateCost(other) === mine)) return false;
    best.push(candidate);
    best.sort((a, b) => candidateCost(a) - candidateCost(b));
    best.length = Math.min(best.length, POOL);
    return best[0] === candidate;
  }

  private newWay(): SearchParameters {
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
    return { keys: range.shake > 0 ? perturbedOrder(keys, random, range.shake) : keys, fit, tilt };
  }

  /** Nearly the same way. The front stays as it is, since it runs through what stays. */
  private near({ keys, fit, tilt }: SearchParameters): SearchParameters {
    const { random } = this;
    const vary = (v: number) => v * (1 + OTHER * (2 * random() - 1));
    const { look, bias, band } = fit as ChoiceRule;
    const other = { look: Math.max(2, Math.round(vary(look))), bias: vary(bias), band: vary(band) };
    return { keys: perturbedOrder(keys, random, SHAKE), fit: other, tilt };
  }
}
