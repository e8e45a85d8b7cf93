import { ROW } from '@wembrel/kernels/occupancy';
import type { Fit } from './fit.ts';
import { changedOrder, shakenOrder } from './orders.ts';
import type { Drawing, Sketch } from './sketch.ts';

/** How a sketch is made: in which order, and how the next body is chosen. */
export interface Way {
  keys: Float64Array;
  fit: Fit | null;
  /** How the front runs, see `DrawOrder`. */
  tilt: number;
}

/** A sketch that was made. */
export interface Drawn extends Way {
  drawing: Drawing;
  /** Area that found no room on the sheet, as a share of it, and whose it is. */
  missing: number;
  late: number[];
}

/**
 * What is tried first, as an order (of the usual ones), how it is chosen and how the front runs, rows a column: looking far pays for many that are
 * alike, not at all for some.
 */
const FIRST: readonly (readonly [number, Fit | null, number])[] = [
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

/** The ways that are tried first. @param orders the usual ones */
export function usualWays(orders: readonly Float64Array[]): Way[] {
  return FIRST.map(([order, fit, tilt]) => ({ keys: orders[order], fit, tilt: Math.round(tilt * ROW) }));
}

/** The same for very many, of which each sketch takes long: a search begins with one of these. */
const FIRST_MANY: readonly Fit[] = [
  { look: 160, bias: 0.18, band: 0.025 },
  { look: 180, bias: 0.2, band: 0.03 },
];

/** One of the ways that are good for very many; another seed may find another. */
export function wayOfMany(orders: readonly Float64Array[], random: () => number): Way {
  // The first two numbers after a small seed are near 0, whichever it is.
  random();
  random();
  return { keys: orders[1], fit: FIRST_MANY[Math.floor(random() * FIRST_MANY.length)], tilt: 0 };
}

/** Another way to choose: near to one that is given, or anywhere between looking at none and far. */
function otherFit(from: Fit | null, random: () => number): Fit | null {
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
/** How often it goes on from one of the usual ways instead of the best. */
const FROM_USUAL = 0.3;

/** By how much keys differ then. */
const SHAKEN = 0.05;

/** The search for a way in which a sketch has room for all at one scale: what left out least is changed on and on. */
export class Hunt {
  /** The least that was left out since it went on from elsewhere. */
  drawn: Drawn | null = null;
  tried = 0;
  /** The least since it began. */
  private best: Drawn | null = null;
  private idle = 0;

  /**
   * @param scale the common scale that is hunted for @param sketch what it is drawn on @param made the scale that the sketch was made for
   * @param lead what it begins with @param usual what it sometimes goes on from
   */
  constructor(
    readonly scale: number,
    readonly sketch: Sketch,
    readonly made: number,
    private readonly lead: Way,
    private readonly random: () => number,
    private readonly usual: readonly Way[],
  ) {}

  /** The next way that is tried: what it begins with, then changes of the best. `anew`: it replaces the best whatever it leaves out. */
  next(): { way: Way; anew: boolean } {
    const { drawn, lead, random } = this;
    const tried = this.tried++;
    if (tried === 0) return { way: lead, anew: false };
    const from = drawn ?? lead;
    if (this.idle++ > IDLE) {
      const { usual } = this;
      const other = random() < FROM_USUAL ? usual[Math.floor(random() * usual.length)] : (this.best ?? lead);
      return { way: { ...other, keys: shakenOrder(other.keys, random, SHAKEN) }, anew: true };
    }
    const kind = random() / (from.fit ? OTHER_FIT : OTHER_PLAIN);
    const fit = kind < 1 ? otherFit(from.fit, random) : from.fit;
    const keys = kind < 0.5 ? from.keys : changedOrder(from.keys, drawn?.late ?? [], tried, random);
    const tilt = random() < OTHER_TILT ? otherTilt(from.tilt, random) : from.tilt;
    return { way: { keys, fit, tilt }, anew: false };
  }

  /** Holds on to what left out no more than the best, or to what replaces it. @returns whether it left out less */
  keep(drawn: Drawn, anew: boolean): boolean {
    const less = drawn.missing < (this.drawn?.missing ?? Number.POSITIVE_INFINITY);
    if (less || anew) this.idle = 0;
    this.drawn = drawn;
    if (drawn.missing < (this.best?.missing ?? Number.POSITIVE_INFINITY)) this.best = drawn;
    return less;
  }
}

/** What a sketch is compared by: how much of the sheet it fills, and more for what found no room. */
export const worth = ({ drawing, missing }: Drawn): number => drawing.depth + 5 * missing;

/** The scale at which a sketch would fill the sheet if it grew down to its end as it is. */
export const fullScale = ({ drawing }: Drawn, scale: number): number =>
  scale / Math.sqrt((drawing.depth + drawing.end) / 2);

/** How much larger than the best all are sketched: so much more after each sketch that had room, up to a most. */
export const STEP = 0.003;
export const STEP_MANY = 0.0015;
const MOST = 0.1;

/** The scale that is hunted for; what was reached is the scale of the best layout. */
export class Target {
  scale = 0;
  /** The greatest at which a sketch had room for all. */
  private sketched = 0;

  /** @param step how much larger than what has room, as a share */
  constructor(private readonly step = STEP) {}

  /** A sketch had room for all at a scale. */
  had(scale: number): void {
    this.sketched = scale;
  }

  /** Another scale, above all that is known to have room. */
  at(scale: number, reached: number): void {
    const known = Math.max(reached, this.sketched);
    this.scale = Math.max(known * (1 + this.step), Math.min(reached * (1 + MOST), scale));
  }

  /** The target as long as it lies above what was reached. */
  above(reached: number): number {
    return Math.max(this.scale, reached * (1 + this.step));
  }

  /** Whether it is far above all that is known to have room. */
  isFar(reached: number): boolean {
    return this.scale > 1.01 * Math.max(reached, this.sketched);
  }

  /** Half-way to what is known to have room. */
  lower(reached: number): void {
    const known = Math.max(reached, this.sketched);
    if (this.scale > known * (1 + 1.5 * this.step)) this.at((known + this.scale) / 2, reached);
  }
}
