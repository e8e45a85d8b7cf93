import type { Budget } from '../../decisions/budget.ts';
import { type TextureBytes, textureBytes } from '../../image/texture-memory.ts';

/** Lines of a budget that a plan can change. */
export const PLAN_LINES = ['drawCalls', 'textureBytes', 'largestTexture', 'density'] as const;
export type PlanLine = (typeof PLAN_LINES)[number];

/** How good a plan is: the lower each, in this order, the better. */
export interface Score {
  /** How far it is over its budget: the sum of ln(is / may) over all lines that are over, 0 when every line is met. */
  excess: number;
  /** The same of a line that was set aside. */
  aside: number;
  drawCalls: number;
  /** How far its texture memory is over that of the sources, as ln(is / was), where no budget limits it; else 0. */
  memory: number;
  /** Minus the least weighted share of the wanted density that a slot gets, 0 … 1; see `weightedShare`. */
  density: number;
  /** Bytes in the budget's format. */
  bytes: number;
}

const KEYS = ['excess', 'aside', 'drawCalls', 'memory', 'density', 'bytes'] as const;

/** Differences below a billionth are none. */
export function compareScores(score: Score, b: Score): number {
  for (const k of KEYS) {
    const d = score[k] - b[k];
    if (Math.abs(d) > 1e-9 * Math.max(1, Math.abs(score[k]))) return d;
  }
  return 0;
}

/** What a slot on a sheet gets, and what it is to have. */
export interface SlotShare {
  /** px per texel of its source. */
  sharpness: number;
  /** The same at which nothing is lost that is wanted; see `wantedSharpness`. */
  wanted: number;
  /** Importance. */
  weight: number;
}

/**
 * Sharpness, px per texel of the source, at which a slot has the density wanted, or all that its source shows.
 * @param p5 lowest density of the source, px/m @param useful see `usefulShare` @param target px/m, null: as sharp as the source
 */
export function wantedSharpness(p5: number, useful: number, target: number | null): number {
  return target === null ? useful : Math.min(useful, target / p5);
}

/** Share of what is wanted that a slot gets, 0 … 1. */
const shareOf = (slotShare: SlotShare): number => Math.min(1, slotShare.sharpness / slotShare.wanted);

/** The same by importance: a slot of weight 2 is as badly off at a half as one of weight 1 at a quarter; one that has all wants no more. */
function weightedShare(slotShare: SlotShare): number {
  return slotShare.sharpness >= slotShare.wanted * (1 - 1e-9)
    ? 1
    : Math.min(1, slotShare.sharpness / (slotShare.wanted * slotShare.weight));
}

/** Below so much memory nothing is worth its sharpness: a sheet of 256² with four maps in 8 bits a texel. */
const FREE_BYTES = 4 * textureBytes(256, 256).bc7;

/** Texture memory up to which a plan without a budget may go: that of the sources, bytes. */
export const sourceMemory = (stored: readonly { bytes: TextureBytes }[], format: Budget['format']): number =>
  Math.max(
    FREE_BYTES,
    stored.reduce((sum, texture) => sum + texture.bytes[format], 0),
  );

/** What the score reads of a plan. */
export interface Scored {
  drawCalls: number;
  bytes: number;
  largestTexture: number;
  /** Everything with a picture on sheets. */
  shares: readonly SlotShare[];
}

/**
 * @param sourceBytes texture memory of the sources, see `sourceMemory`
 * @param aside a line of the budget that is counted apart from the others
 */
export function scoreOf(scored: Scored, budget: Budget, sourceBytes: number, aside: PlanLine | null): Score {
  const lines: Record<PlanLine, number> = {
    drawCalls: over(scored.drawCalls, budget.drawCalls),
    textureBytes: over(scored.bytes, budget.textureBytes),
    largestTexture: over(scored.largestTexture, budget.largestTexture),
    density: budget.density === null ? 0 : -Math.log(Math.max(1e-9, leastShare(scored.shares))),
  };
  return {
    excess: PLAN_LINES.reduce((sum, l) => (l === aside ? sum : sum + lines[l]), 0),
    aside: aside ? lines[aside] : 0,
    drawCalls: scored.drawCalls,
    memory: budget.textureBytes === null ? over(scored.bytes, sourceBytes) : 0,
    density: -scored.shares.reduce((least, x) => Math.min(least, weightedShare(x)), 1),
    bytes: scored.bytes,
  };
}

/** The least share of what is wanted that any slot gets; 1 when all have all. */
export function leastShare(shares: readonly SlotShare[]): number {
  const least = shares.reduce((least, x) => Math.min(least, shareOf(x)), 1);
  return least > 1 - 1e-9 ? 1 : least;
}

function over(is: number, may: number | null): number {
  return may === null || is <= may ? 0 : Math.log(is / Math.max(may, 1e-9));
}
