import { ROW } from '@wembrel/kernels/occupancy';
import type { ChoiceRule } from './choice-rule.ts';
import type { ConstructionGrid } from './construction-grid.ts';
import { changedOrder, perturbedOrder } from './orders.ts';
import type { Candidate, SearchParameters } from './search-parameters.ts';
import { INITIAL_PARAMETERS, INITIAL_RULES_MANY, ORDER_SEARCH as O } from './tuning.ts';

/** The search parameters that are tried first. @param orders the usual ones */
export function initialParameters(orders: readonly Float64Array[]): SearchParameters[] {
  return INITIAL_PARAMETERS.map(([order, fit, tilt]) => ({ keys: orders[order], fit, tilt: Math.round(tilt * ROW) }));
}

/** One of the search parameters that are good for very many; another seed may find another. */
export function initialParametersForMany(orders: readonly Float64Array[], random: () => number): SearchParameters {
  // The first two numbers after a small seed are near 0, whichever it is.
  random();
  random();
  return { keys: orders[1], fit: INITIAL_RULES_MANY[Math.floor(random() * INITIAL_RULES_MANY.length)], tilt: 0 };
}

/** Another way to choose: near to one that is given, or anywhere between looking at none and far. */
function otherFit(from: ChoiceRule | null, random: () => number): ChoiceRule | null {
  const anywhere = random() < 0.25;
  if (from && !anywhere) {
    const vary = (v: number) => v * (0.6 + 0.9 * random());
    return { look: Math.max(1, Math.round(vary(from.look))), bias: vary(from.bias), band: vary(from.band) };
  }
  if (anywhere && random() < 0.25) return null;
  // Products alone, so that every engine gives the same; the low ones come more often.
  const between = (low: number, high: number) => {
    const r = random();
    return low + (high - low) * r * r;
  };
  return { look: Math.round(between(1, 150)), bias: between(0.15, 2), band: between(0.01, 0.15) };
}

/** Another front: near to one that is given, or any. */
function otherTilt(from: number, random: () => number): number {
  if (from > 0 && random() < 0.6) return Math.round(from * (0.6 + 0.9 * random()));
  const r = random();
  return Math.round(0.5 * ROW * r * r);
}

/** The search for a set of search parameters in which a construction has room for all at one scale: what left out least is changed on and on. */
export class OrderSearch {
  /** The least that was left out since it went on from elsewhere. */
  candidate: Candidate | null = null;
  tried = 0;
  /** The least since it began. */
  private best: Candidate | null = null;
  private idle = 0;

  /**
   * @param scale the common scale that is searched for @param construction what it is drawn on @param made the scale that the construction was made for
   * @param lead what it begins with @param usual what it sometimes goes on from
   */
  constructor(
    readonly scale: number,
    readonly grid: ConstructionGrid,
    readonly made: number,
    private readonly lead: SearchParameters,
    private readonly random: () => number,
    private readonly usual: readonly SearchParameters[],
  ) {}

  /** The next way that is tried: what it begins with, then changes of the best. `again`: it replaces the best whatever it leaves out. */
  next(): { parameters: SearchParameters; anew: boolean } {
    const { candidate, lead, random } = this;
    const tried = this.tried++;
    if (tried === 0) return { parameters: lead, anew: false };
    const from = candidate ?? lead;
    if (this.idle++ > O.idle) {
      const { usual } = this;
      const other = random() < O.fromInitial ? usual[Math.floor(random() * usual.length)] : (this.best ?? lead);
      return { parameters: { ...other, keys: perturbedOrder(other.keys, random, O.perturbation) }, anew: true };
    }
    const kind = random() / (from.fit ? O.otherRule : O.otherPlain);
    const fit = kind < 1 ? otherFit(from.fit, random) : from.fit;
    const keys = kind < 0.5 ? from.keys : changedOrder(from.keys, candidate?.late ?? [], tried, random);
    const tilt = random() < O.otherTilt ? otherTilt(from.tilt, random) : from.tilt;
    return { parameters: { keys, fit, tilt }, anew: false };
  }

  /** Holds on to what left out no more than the best, or to what replaces it. @returns whether it left out less */
  keep(candidate: Candidate, anew: boolean): boolean {
    const less = candidate.missing < (this.candidate?.missing ?? Number.POSITIVE_INFINITY);
    if (less || anew) this.idle = 0;
    this.candidate = candidate;
    if (candidate.missing < (this.best?.missing ?? Number.POSITIVE_INFINITY)) this.best = candidate;
    return less;
  }
}
