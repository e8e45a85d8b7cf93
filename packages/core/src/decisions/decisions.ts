import { z } from 'zod';
import { sentence } from '../errors.ts';
import { Budget } from './budget.ts';
import { Collision } from './collision.ts';
import { FaceDecisions } from './face-decisions.ts';
import { LightDecisions } from './light-decisions.ts';
import { ModelCopies } from './model-copies.ts';
import { PlannedSurface } from './planned-surface.ts';
import { chosenProfiles, ProfileChoice } from './profiles.ts';
import { RayDecisions } from './ray-decisions.ts';
import { ReadingDecisions } from './reading.ts';
import { RecipeUse } from './recipe/recipe-use.ts';
import { Repairs } from './repairs.ts';
import { namedTwice, RouteList, WeightList } from './routes.ts';
import { APART, RouteRule } from './rules.ts';
import { evenSheets, MOST_SHEETS, SheetDecision, sheetSides } from './sheets.ts';
import { ModelStandIns } from './stand-in.ts';

/** `no-gain`: merging it gains nothing. `starved`: it would hold back the sharpness of its whole sheet. */
const LeftOut = z.object({ slot: z.string(), why: z.enum(['no-gain', 'starved']) });
export type LeftOut = z.infer<typeof LeftOut>;

/** What is decided about where slots go and how the sheets are made: what alternatives differ in. */
export const PlanFields = z.object({
  sheets: z
    .array(SheetDecision)
    .min(1, 'at least one sheet is needed')
    .max(MOST_SHEETS, `at most ${MOST_SHEETS} sheets`)
    .default(() => evenSheets(1, 'sheet', 2048, 12)),
  /** Slots without a route or a rule are spread over the sheets by area. */
  routes: RouteList.default([]),
  /** Asked in order for slots that have no route of their own. */
  rules: z.array(RouteRule).max(256, 'at most 256 rules').default([]),
  /** Only objects that fit one of these patterns are merged (see `fitsObject`); all others stay as they are. Empty: all are. */
  only: z.array(z.string().trim().min(1).max(400)).max(200, 'at most 200 patterns').default([]),
  /** Slots that are more or less important than the others. */
  weights: WeightList.default([]),
  /** Slots by exact name whose repeats are baked in, however many they are. */
  bakeRepeats: z.array(z.string()).default([]),
  /** Slots by exact name that are cut at the repeats of their texture. */
  cutRepeats: z.array(z.string()).default([]),
  /** Slots by exact name whose islands are moved, never turned: strips whose texels run one way. */
  keepTurn: z.array(z.string()).default([]),
  /** Slots by exact name whose base colour goes into vertex colours. */
  vertexColours: z.array(z.string()).default([]),
  /** How far island colours are carried outward, px; null: as far as the margin. */
  padding: z.number().int().min(0).max(512).nullable().default(null),
  /** Samples per texel in all. */
  samples: z.union([z.literal(1), z.literal(4), z.literal(9), z.literal(16)]).default(4),
  rotate: z.enum(['none', 'quarter', 'free']).default('quarter'),
  /** `detail`: as sharp as what a source's pictures really resolve. */
  scale: z.enum(['relative', 'even', 'detail']).default('relative'),
  /** Parts by exact name that `join` leaves alone. */
  keepParts: z.array(z.string()).default([]),
  /** Slots are merged even where nothing is gained by it. */
  mergeAll: z.boolean().default(false),
  /** Slots by exact name that a proposal keeps apart, and why; a route of their own goes before it. */
  leftOut: z.array(LeftOut).default([]),
  /** Join parts of a model that then share a slot across nodes; primitives of one mesh are joined in any case. */
  join: z.boolean().default(false),
  /** Textures inside each GLB instead of beside it. */
  embed: z.boolean().default(false),
  /** Repeats of a tiling surface that are baked in, along one axis, before the slot is kept apart instead. */
  maxRepeats: z.number().int().min(1).max(64).default(4),
  /** How long the packer looks for a tighter layout: so many rounds for up to 100 islands, fewer for more (`roundsFor`). */
  effort: z.number().int().min(0).max(100_000).default(6),
  /** Islands stand on whole texels, for pictures made of texels. */
  snap: z.boolean().default(false),
  seed: z.number().int().min(0).max(0x7fffffff).default(1),
  /** Nothing is merged: models keep their own materials, mended as `repairs` says. */
  keepAll: z.boolean().default(false),
});

export const Plan = PlanFields.superRefine(checkPlan);
/** A plan by itself: the document of `wembrel plan` and of an alternative. */
export type Plan = z.infer<typeof Plan>;

/** Another version of the plan, held beside it. */
const Alternative = z.object({
  id: z.string().regex(/^[a-z0-9]{1,8}$/, 'small letters and digits, at most 8'),
  name: z.string().trim().min(1, 'a name is needed').max(60),
  plan: Plan,
});

const Fields = PlanFields.extend({
  /** How far away the models will be seen, m; where the comparison opens. Null: as large as fits. */
  viewDistance: z.number().min(0.01).max(100_000).nullable().default(null),
  /** Side of the pictures by which a final is compared with its sources, px; a proof takes half of it. */
  compareAt: z.union([z.literal(256), z.literal(512), z.literal(1024), z.literal(2048)]).default(1024),
  /** Jobs whose results were taken away; undo brings them back. */
  removedResults: z.array(z.string().max(64)).max(500).default([]),
  planned: z.array(PlannedSurface).max(500, 'at most 500 planned surfaces').default([]),
  alternatives: z.array(Alternative).max(3, 'at most three beside the plan').default([]),
  /** What the last proposal said, so that a new one can tell changes by hand from its own. */
  proposed: z
    .object({
      routes: RouteList,
      sheets: z.array(SheetDecision),
      /** Slots that it cut at their repeats. */
      cuts: z.array(z.string()).default([]),
    })
    .nullable()
    .default(null),
  reading: ReadingDecisions.prefault({}),
  /** Face groups and what is done to their faces, before all else. */
  faces: FaceDecisions.prefault({}),
  /** High-polys and low-polys, and what is baked from one to the other. */
  rays: RayDecisions.prefault({}),
  /** Light that goes into vertex colours. */
  light: LightDecisions.prefault({}),
  /** How the stand-ins of heavy models are made. */
  standIns: ModelStandIns.default([]),
  /** Recipes that are laid on sheets once their materials are baked, one after the other. */
  recipes: z.array(RecipeUse).max(50, 'at most 50 recipes').default([]),
  repairs: Repairs.prefault({}),
  budget: Budget.prefault({}),
  /** Names that slots must bear; `*` stands for any letters. Empty: any name. */
  requiredNames: z.array(z.string().trim().min(1).max(120)).max(200).default([]),
  /** The same for textures, by their file names without folder and ending. */
  requiredTextures: z.array(z.string().trim().min(1).max(120)).max(200).default([]),
  /** Materials that look the same get one name in all models of a delivery. */
  sameNames: z.boolean().default(false),
  /** Formats in which the models are handed over besides GLB. */
  modelCopies: ModelCopies.default([]),
  /** Collision shapes that are handed over beside the models, in files of their own. */
  collision: Collision.prefault({}),
  /** Conventions by which images are handed over beside those of the glTF files. */
  profiles: z.array(ProfileChoice).max(8, 'at most 8 profiles').default([]),
});

/** Sheets differ in id and name; routes and rules lead to sheets that are there. */
export function checkPlan(decisions: z.infer<typeof PlanFields>, context: z.RefinementCtx): void {
  const fail = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message });
  const ids = new Set<string>([APART]);
  const names = new Set<string>();
  decisions.sheets.forEach((sheet, i) => {
    if (ids.has(sheet.id)) fail(['sheets', i, 'id'], `two sheets have the id "${sheet.id}"`);
    if (names.has(sheet.name.toLowerCase())) fail(['sheets', i, 'name'], `two sheets are called "${sheet.name}"`);
    ids.add(sheet.id);
    names.add(sheet.name.toLowerCase());
    const [w, h] = sheetSides(sheet);
    for (const [key, p] of Object.entries(sheet.pinned))
      if (p.x + p.width > w + 1 || p.y + p.height > h + 1)
        fail(['sheets', i, 'pinned', key], `a bay that is to stay does not lie on the sheet "${sheet.name}"`);
    sheet.reserves.forEach((reserve, k) => {
      if (reserve.x + reserve.width > w || reserve.y + reserve.height > h)
        fail(['sheets', i, 'reserves', k], `the reserve does not lie on the sheet "${sheet.name}"`);
    });
  });
  for (const { slot, to } of decisions.routes)
    if (!ids.has(to)) fail(['routes', slot], `"${slot}" is routed to a sheet that does not exist`);
  for (const field of ['routes', 'weights'] as const) {
    const twice = namedTwice(decisions[field]);
    if (twice !== null) fail([field, twice], `"${twice}" is named twice`);
  }
  decisions.rules.forEach((rule, i) => {
    if (!ids.has(rule.to)) fail(['rules', i, 'to'], 'a rule leads to a sheet that does not exist');
  });
}

/** What the user decides about a merge. Everything else is derived from this and the sources. */
export const MergeDecisions = Fields.superRefine((decisions, context) => {
  checkPlan(decisions, context);
  try {
    chosenProfiles(decisions.profiles);
  } catch (error) {
    context.addIssue({ code: 'custom', path: ['profiles'], message: sentence(error) });
  }
  const ids = new Set<string>([APART, ...decisions.sheets.map((sheet) => sheet.id)]);
  decisions.planned.forEach((planned, i) => {
    if (planned.to !== null && !ids.has(planned.to))
      context.addIssue({
        code: 'custom',
        path: ['planned', i, 'to'],
        message: `"${planned.name}" goes to a sheet that does not exist`,
      });
  });
});
export type MergeDecisions = z.infer<typeof MergeDecisions>;

/** The plan inside all decisions. */
export function planOf(decisions: Plan): Plan {
  return Object.fromEntries(PLAN_KEYS.map((k) => [k, decisions[k]])) as Plan;
}

export const PLAN_KEYS = Object.keys(PlanFields.shape) as (keyof Plan)[];

/** A quarter of the side, for a look before the final bake. */
export const PROOF_DIVISOR = 4;
