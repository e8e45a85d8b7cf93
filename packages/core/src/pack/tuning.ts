import type { BeamWidth, ChoiceRule } from './choice-rule.ts';

/*
 * All numbers of packing that were found by trial. Unless another origin is given, each was varied by itself over one to eight seeds of the bench's sets
 * (P1 60 mixed islands, P2 400 of props, P3 2 000 small ones, P4 12 large concave ones, P5 200 strips) and kept where the mean coverage was greatest:
 * `node scripts/sweep-packing.mjs --number ORDER_SEARCH.idle --values 30,60,120 --sets P1,P2` does that again. Layouts are stored by the seed and the rounds
 * that find them, so that another number here finds other layouts.
 *
 * Units: px are working px (see `workingSide`), shares are of the sheet or of a scale, rounds are those of `effort`.
 */

/** How many shapes make which kind of search worth while. */
export const COUNTS = {
  /** Up to so many only explore: constructions bring them nothing (P4). */
  exploreOnly: 24,
  /** Up to so many are few: each is worth many looks (between P1 and P2). */
  few: 100,
  /** More are many: a single construction takes a second (between P2 and P3). */
  many: 1000,
  /** Few explore every so many rounds, more every so many. */
  exploreEveryFew: 16,
  exploreEvery: 4,
  /** Rounds in which few are constructed on one sheet at a time, before the beam: the initial parameters come far at once (P1). */
  singleRounds: 5,
};

/** How exact working px are. */
export const PRECISION = {
  /** Longest side in working px. Finer sheets are packed in units of several px, so that the work stays the same. */
  workingSide: 1024,
  /** Px by which distance fields may be wrong; many shapes are small, and their fields are finer (P3: 0.05 loses some tenths of a percent, less brings nothing). */
  slack: 0.05,
  slackMany: 0.03,
  /** Px by which two may stay too near while overlaps are resolved; the exact borders are checked afterwards. */
  trace: 0.04,
  /** Rounds of moving apart what fields had too near. */
  nudges: 30,
};

/** Constructions on a grid. */
export const CONSTRUCTION = {
  /** Px a cell of the first layout, of many and of fewer, and of one that is to be better than what there is. */
  firstCellMany: 3,
  firstCell: 2,
  fineCell: 1,
  /** Cells whose middles are nearer to a shape than this are its own, in cells: on a fine and on a coarse grid. */
  reachFine: 0.1,
  reach: 0.3,
  /** Growth up to which the cells of all shapes are taken as the same, on a fine and on a coarse grid. */
  sameCells: 1.03,
  sameCoarseCells: 1.15,
  /** Share of the sheet's height by which the grid goes on below it. */
  below: 0.2,
  /** Cells around a halo that say how closely it is surrounded. */
  ring: 2,
  /** Shares of the sheet that may be missing: of the first layout, and of one that has room for all. */
  firstMissing: 1e-3,
  wholeMissing: 1e-4,
  /** Times that one with room for all may fail to be resolved before all are taken to be crowded (furniture at 128 and 256 px: more never succeed; P2 at 2048 px needs two). */
  refusedFirst: 3,
  /** The same of one that is resolved although something is missing, on one sheet and from a beam, and of any that a beam finishes. */
  nearMissing: 0.004,
  nearMissingBeam: 0.001,
  mostMissingBeam: 0.02,
  /** What lies further over the sheet's end than this share of its height looks for another place. */
  over: 0.3,
};

/** The common scale that is searched for, and how it is taken. */
export const SCALE = {
  /** How much larger than the best all are constructed; many, of which each construction takes long, go on in smaller steps. */
  step: 0.003,
  stepMany: 0.0015,
  /** The most that a target may lie above the best. */
  most: 0.1,
  /** How much larger than the first layout many are constructed for the first time, and how much smaller where that could not be resolved. */
  scoutMany: 0.055,
  backMany: 0.004,
  /** How much smaller the same construction is resolved again: of many once, of fewer in three steps. */
  yieldMany: 0.0015,
  yield: 0.0008,
  /** Growth that a first construction promises from which on initial parameters are compared at that scale once more. */
  compareAgain: 0.02,
  /** Few are searched for between these above the best: where all fit well differs by a percent between scales that are hardly apart (P1). */
  leastFew: 0.001,
  mostFew: 0.006,
  /** How much larger than the best a layout is explored at, and how many that stayed infeasible there are kept. */
  explore: 0.002,
  infeasible: 12,
};

/** Search for an order on one sheet at a time. */
export const ORDER_SEARCH = {
  /** Constructions a round, of fewer and of many. */
  tries: 10,
  triesMany: 4,
  /** Constructions without one that has room for all after which a smaller scale is searched for, and after which it shows that it is far too much. */
  long: 20,
  short: 3,
  /** Orders without a gain after which the search goes on from elsewhere. */
  idle: 60,
  /** Share of changes that change the choice rule: where it takes long already, and where it does not. */
  otherRule: 0.2,
  otherPlain: 0.03,
  /** Share of changes that give the front another tilt. */
  otherTilt: 0.08,
  /** How often it goes on from one of the initial parameters instead of the best, and by how much their keys differ then. */
  fromInitial: 0.3,
  perturbation: 0.05,
};

/**
 * The parameters that are tried first: an order (of the initial ones), how the next shape is chosen, and the tilt of the front, rows a column. Looking far
 * pays for many that are alike, not at all for some. Picked from some 4 000 random ones for P1 and 1 200 for P2.
 */
export const INITIAL_PARAMETERS: readonly (readonly [order: number, rule: ChoiceRule | null, tilt: number])[] = [
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

/** What is constructed once more after the first layout, on its grid. */
export const COARSE = {
  /** Which of `INITIAL_PARAMETERS`: of each alone, the one with the greatest coverage over P2, P5 and 289 bays of real files, at 2048 px with a margin of 12. */
  parameters: 10,
  /** Constructions that look for the greatest scale: of fewer, and of many. */
  steps: 6,
  stepsMany: 3,
  /** The largest so many are tried to be resolved. */
  resolved: 2,
};

/** The rules with one of which a search of many begins, by the seed (P3). */
export const INITIAL_RULES_MANY: readonly ChoiceRule[] = [
  { look: 160, bias: 0.18, band: 0.025 },
  { look: 180, bias: 0.2, band: 0.03 },
];

/** Where parameters of a beam are looked for: the least and the greatest of each. What is good on one sheet is not what is good on many. */
export interface ParameterRange {
  /** See `ChoiceRule`. */
  look: readonly [number, number];
  bias: readonly [number, number];
  band: readonly [number, number];
  /** How wide new parameters are constructed, and those that begin like others. */
  fresh: BeamWidth;
  again: BeamWidth;
  /** By how much keys differ from the initial ones. */
  perturbation: number;
}

/** Beam search, on many sheets side by side. */
export const BEAM_SEARCH = {
  /** From some 500 tries with P1. */
  few: {
    look: [6, 30],
    bias: [0.7, 2],
    band: [0.015, 0.07],
    fresh: { sheets: 16, options: 4 },
    again: { sheets: 16, options: 4 },
    perturbation: 0,
  } satisfies ParameterRange,
  /** Tuned on P2; only strips, which keep their direction, take this way (P5). */
  more: {
    look: [30, 90],
    bias: [0.4, 0.8],
    band: [0.03, 0.16],
    fresh: { sheets: 1, options: 1 },
    again: { sheets: 4, options: 4 },
    perturbation: 0.01,
  } satisfies ParameterRange,
  /** Greatest tilt of a front, rows a column. */
  tilt: 0.33,
  /** Share of what is placed that goes into constructing the best ones again, and the share of their shapes that stay: at least and at most. */
  again: 0.5,
  stay: [0.3, 0.8],
  /** By how much keys and the choice rule differ then. */
  perturbation: 0.02,
  otherRule: 0.3,
  /** How many of the best are kept. */
  kept: 4,
  /** How often all are placed in a round, and after how often without room for all another scale is searched for: of few, and of more. */
  placed: 8,
  longFew: 160,
  longMore: 60,
};

/** Resolving overlaps. (How far neighbours are looked for and how much two may count stands with the solver, in the kernels.) */
export const RESOLUTION = {
  /** Rounds of pushing between moves of single shapes, and the share of its movement that a shape keeps from one to the next. */
  pushes: 40,
  momentum: 0.88,
  /** Places anywhere, and as many nearby, that a shape looks at. */
  places: 20,
  /** Places that one without a place looks at, where many are without, and where few are. */
  insertMany: 60,
  insert: 300,
  /** Share of all shapes that may move in a round, and what a round has to leave of the overlap to be a gain: of few, and of more. */
  moversFew: 0.3,
  gainFew: 0.98,
  movers: 0.04,
  gain: 0.9,
};
