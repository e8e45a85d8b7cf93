import { canonicalJson } from '../canonical-json.ts';
import { type MergeDecisions, PLAN_KEYS } from './decisions.ts';
import { facesRead } from './face-decisions.ts';
import { objectPatterns } from './object-patterns.ts';
import { plannedPictures } from './planned-surface.ts';

/*
 * Which fields of the decisions each stage reads. This is the only place that says so: parameter types, stamps of results and cache keys derive
 * from it. Whoever makes a stage read one more field adds it here; `reads.test.ts` then says which results go out of date with it.
 */

/** How files become models: what every job begins with. */
const READING = ['reading', 'faces', 'planned'] as const;

/** Which objects have slots of their own. */
const SEPARATING = ['rules', 'only'] as const;

/** Where slots go. */
const ROUTING = [
  'sheets',
  'routes',
  'rules',
  'only',
  'keepAll',
  'mergeAll',
  'leftOut',
  'join',
  'maxRepeats',
  'bakeRepeats',
  'cutRepeats',
] as const;

export const READS = {
  /** Figures, facts and findings of the files. */
  survey: [...READING, ...SEPARATING],
  /** Where a slot goes; not how its material is laid. */
  routing: ROUTING,
  /** Whose colours go into vertices. */
  colouring: ['vertexColours', 'routes', 'rules', 'only', 'keepAll'],
  /** The islands of each sheet, not packed. */
  layout: [...READING, 'repairs', ...ROUTING, 'weights', 'keepTurn', 'vertexColours'],
  /** How islands are packed, besides the islands themselves. */
  packing: ['sheets', 'rotate', 'scale', 'snap', 'effort', 'seed'],
  /** What a plan will cost. */
  prediction: [...PLAN_KEYS, 'repairs'],
  /** Proofs and finals. Names are checked on what was written. */
  merge: [
    ...PLAN_KEYS,
    ...READING,
    'repairs',
    'recipes',
    'requiredNames',
    'requiredTextures',
    'compareAt',
    'profiles',
    'sameNames',
    'collision',
    'modelCopies',
  ],
  /** Proofs and finals of rays, and the search for reaches. */
  rays: [...READING, 'rays'],
  /** Light into vertex colours. */
  light: [...READING, 'light'],
  /** A stand-in, besides the settings of its own model, which are kept with its result. */
  standIn: READING,
  /** Recipes on models, besides the recipe itself, which is kept with its result. */
  recipe: [...READING, 'rays'],
  findings: ['budget', 'requiredNames', 'rays'],
} as const satisfies Record<string, readonly (keyof MergeDecisions)[]>;

export type Stage = keyof typeof READS;

/** The decisions that a stage reads. */
export type Read<S extends Stage> = Pick<MergeDecisions, (typeof READS)[S][number]>;

const bySlot = <T extends { slot: string }>(list: readonly T[]): T[] =>
  [...list].sort((a, b) => (a.slot < b.slot ? -1 : a.slot > b.slot ? 1 : 0));

/** What of a field counts, where that is not all of it: order, names and notes that change no result; null: nothing. */
const COUNTS: { [K in keyof MergeDecisions]?: (value: MergeDecisions[K], stage: Stage) => unknown } = {
  faces: facesRead,
  // A reading tells objects apart, wherever they then go.
  rules: (rules, stage) => (stage === 'survey' ? objectPatterns({ rules, only: [] }) : rules),
  // Merges lay those that are for sheets.
  recipes: (recipes) =>
    recipes.flatMap(({ recipe, models, sheets, cell }) =>
      sheets.length > 0 && cell === null ? [{ recipe, models, sheets }] : [],
    ),
  // A recipe asks only which high-poly belongs to a model.
  rays: (rays, stage) => (stage === 'recipe' ? rays.pairings.map(({ high, low }) => ({ high, low })) : rays),
  // Of what is planned, pictures that are laid on slots.
  planned: (planned) => {
    const pictures = plannedPictures(planned);
    return pictures.length > 0 ? pictures : null;
  },
  // None is as before there were any.
  profiles: (profiles) => (profiles.length > 0 ? profiles : null),
  sameNames: (same) => same || null,
  modelCopies: (copies) => (copies.length > 0 ? [...copies].sort() : null),
  collision: (collision) => (collision.as === 'none' ? null : collision),
  routes: bySlot,
  weights: bySlot,
  // Which islands go to which sheet does not depend on margins, names and places.
  sheets: (sheets, stage) =>
    stage === 'layout' ? sheets.map(({ id, kind, size, height, maps }) => ({ id, kind, size, height, maps })) : sheets,
};

/** One text for all that a stage reads of the decisions: equal texts give equal results. What counts for nothing is left out, so that texts of before stay. */
export function readText(stage: Stage, decisions: MergeDecisions): string {
  const counted = <K extends keyof MergeDecisions>(key: K): [K, unknown][] => {
    const count = COUNTS[key];
    const value = count ? count(decisions[key], stage) : decisions[key];
    return value === null ? [] : [[key, value]];
  };
  return canonicalJson(Object.fromEntries(READS[stage].flatMap((key) => counted(key))));
}
