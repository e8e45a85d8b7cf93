import { ROW } from '@wembrel/kernels/occupancy';
import type { ChoiceRule } from './choice-window.ts';
import type { ConstructionGrid } from './construction-grid.ts';
import { changedOrder, perturbedOrder } from './orders.ts';
import type { Candidate, SearchParameters } from './search-parameters.ts';

/**
 * What is tried first, as an order (of the usual ones), how it is chosen and how the front runs, rows a column: looking far pays for many that are
 * alike, not at all for some.
 */
const FIRST: readonly (readonly [number, ChoiceRule | null, number])[] = [
  [1, { look: 120, bias: 0.2, band: 0.02 }, 0],
  [0, null, 0],
  [0, null, 0.33],
  [2, { look: 76, bias: 0.41, band: 0.16 }, 0.076],
  [2, { look: 97, bias: 0.55, band: 0.057 }, 0.104],
  [2, { look: 8, bias: 0.74, band: 0.044 }, 0.173],
  [0, { look: 100, bias: 0.6, band: 0.08 }, 0.2],
  [4, { look: 110, bias: 0.35, band: 0.15 }, 0.05],
  [3, { look: 90, bias: 0.3, band: 0.045 }, 0.1],
  [0, { look: 40, bias: 0.5, band: 0.085 }, 0],
  [0, { look: 40, bias: 0.5, band: 0.085 }, 0.25],
  [2, null, 0.2],
  [1, { look: 20, bias: 0.5, band: 0.05 }, 0.15],
];

/** The search parameters that are tried first. @param orders the usual ones */
export function initialParameters(orders: readonly Float64Array[]): SearchParameters[] {
  return FIRST.map(([order, fit, tilt]) => ({ keys: orders[order], fit, tilt: Math.round(tilt * ROW) }));
}

/** The same for very many, of which each construction takes long: a search begins with one of these. */
const FIRST_MANY: readonly ChoiceRule[] = [
  { look: 160, bias: 0.18, band: 0.025 },
  { look: 180, bias: 0.2, band: 0.03 },
];

/** One of the search parameters that are good for very many; another seed may find another. */
export function initialParametersForMany(orders: readonly Float64Array[], random: () => number): SearchParameters {
  // The first two numbers after a small seed are near 0, whichever it is.
  random();
  random();
  return { keys: orders[1], fit: FIRST_MANY[Math.floor(random() * FIRST_MANY.length)], tilt: 0 };
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

/** Orders without a gain after which the search goes on from elsewhere. */
const IDLE = 60;
/** Share of changes that choose in another way, where that takes long already, and where it does not. */
const OTHER_FIT = 0.2;
const OTHER_PLAIN = 0.03;
/** Share of changes that give the front another tilt. */
const OTHER_TILT = 0.08;
/** How often it goes on from one of the usual search parameters instead of the best. */
const FROM_USUAL = 0.3;

/** By how much keys differ then. */
const SHAKEN = 0.05;

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
    if (this.idle++ > IDLE) {
      const { usual } = this;
      const other = random() < FROM_USUAL ? usual[Math.floor(random() * usual.length)] : (this.best ?? lead);
      return { parameters: { ...other, keys: perturbedOrder(other.keys, random, SHAKEN) }, anew: true };
    }
    const kind = random() / (from.fit ? OTHER_FIT : OTHER_PLAIN);
    const fit = kind < 1 ? otherFit(from.fit, random) : from.fit;
    const keys = kind < 0.5 ? from.keys : changedOrder(from.keys, candidate?.late ?? [], tried, random);
    const tilt = random() < OTHER_TILT ? otherTilt(from.tilt, random) : from.tilt;
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
