import { ROW } from '@wembrel/kernels/occupancy';
import type { ChoiceRule } from './choice-rule.ts';
import type { ConstructionGrid } from './construction-grid.ts';
import type { BeamTask } from './layout-builder.ts';
import { perturbedOrder } from './orders.ts';
import { type Candidate, candidateCost, type SearchParameters } from './search-parameters.ts';
import { BEAM_SEARCH as B, type ParameterRange } from './tuning.ts';

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
    this.range = few ? B.few : B.more;
  }

  next(): BeamTask {
    const { random, best, range } = this;
    const count = this.orders[0].length;
    if (best.length === 0 || this.anew > B.again * this.placed) {
      this.placed += count * range.fresh.sheets;
      return { parameters: this.newWay(), width: range.fresh };
    }
    const from = best[Math.floor(random() * random() * best.length)];
    const bodies = Math.floor(from.construction.sequence.length * (B.stay[0] + (B.stay[1] - B.stay[0]) * random()));
    const placed = (count - bodies) * range.again.sheets;
    this.placed += placed;
    this.anew += placed;
    return { parameters: this.near(from), width: range.again, from: { construction: from.construction, bodies } };
  }

  /** Holds on to a construction that is among the best. @returns whether it is the best one */
  keep(candidate: Candidate): boolean {
    const { best } = this;
    const mine = candidateCost(candidate);
    if (best.some((other) => candidateCost(other) === mine)) return false;
    best.push(candidate);
    best.sort((a, b) => candidateCost(a) - candidateCost(b));
    best.length = Math.min(best.length, B.kept);
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
    const tilt = Math.round(B.tilt * random() * ROW);
    return { keys: range.perturbation > 0 ? perturbedOrder(keys, random, range.perturbation) : keys, fit, tilt };
  }

  /** Nearly the same way. The front stays as it is, since it runs through what stays. */
  private near({ keys, fit, tilt }: SearchParameters): SearchParameters {
    const { random } = this;
    const vary = (v: number) => v * (1 + B.otherRule * (2 * random() - 1));
    const { look, bias, band } = fit as ChoiceRule;
    const other = { look: Math.max(2, Math.round(vary(look))), bias: vary(bias), band: vary(band) };
    return { keys: perturbedOrder(keys, random, B.perturbation), fit: other, tilt };
  }
}
