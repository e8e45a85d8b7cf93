import { z } from 'zod';
import { RAY_SAMPLES } from './ray-decisions.ts';

export const STAND_IN_KINDS = ['simplified', 'hull'] as const;
export type StandInKind = (typeof STAND_IN_KINDS)[number];

/** Levels of detail beyond the first, as shares of its triangles, from heavy to light. */
export const StandInLevels = z
  .array(z.number().gt(0).lt(1))
  .max(8, 'at most 8 levels')
  .refine((list) => list.every((share, i) => i === 0 || share < list[i - 1]), 'each smaller than the one before');

/** How a stand-in is made of a heavy model. */
export const StandInSpec = z.strictObject({
  /** The source reduced, or one watertight hull around it. */
  as: z.enum(STAND_IN_KINDS).default('simplified'),
  /** Triangles at the most, or px by which 99 % of the outline may be off from the viewing distance. */
  goal: z
    .union([
      z.strictObject({ triangles: z.number().int().min(4).max(20_000_000) }),
      z.strictObject({ px: z.number().min(0.01).max(1000) }),
    ])
    .default({ px: 1 }),
  /** From where it is seen, m; null: from where it fills the height of the screen. */
  distance: z.number().gt(0).max(1e9).nullable().default(null),
  /** Width of a hull's cells, m; null: found. */
  cell: z.number().gt(0).max(1e6).nullable().default(null),
  /** Cavities inside a hull stay. */
  keepCavities: z.boolean().default(false),
  /** Objects stay shells of their own. */
  keepGroups: z.boolean().default(false),
  /** Faces that nothing from outside sees are kept as well. */
  keepHidden: z.boolean().default(false),
  /** Slots that stay as they are, by name, beside all that are alpha-blended. */
  apart: z.array(z.string()).max(1000).default([]),
  /** Side of the sheet, px. */
  size: z
    .number()
    .int()
    .min(64)
    .max(8192)
    .refine((v) => (v & (v - 1)) === 0, 'a power of two')
    .default(2048),
  /** Gap between charts, px at that size. */
  margin: z.number().min(0).max(256).default(8),
  /** In all a texel. */
  samples: z.literal(RAY_SAMPLES).default(4),
  levels: StandInLevels.default([0.4, 0.16, 0.064]),
  /** Flat cards for the farthest level: none, one, or two that cross. */
  cards: z.union([z.literal(0), z.literal(1), z.literal(2)]).default(0),
});
export type StandInSpec = z.infer<typeof StandInSpec>;

/** How the stand-in of one model of a project is made. */
export const ModelStandIn = z.strictObject({
  /** Path of its file. */
  model: z.string().min(1).max(400),
  spec: StandInSpec,
});
export type ModelStandIn = z.infer<typeof ModelStandIn>;

/** Those of a project: each model once. */
export const ModelStandIns = z
  .array(ModelStandIn)
  .max(2000)
  .refine((list) => new Set(list.map(({ model }) => model)).size === list.length, 'a model is named twice');

/** How the stand-in of a model is made: as decided, or with the settings to begin with. */
export const standInOf = (list: readonly ModelStandIn[], model: string): StandInSpec =>
  list.find((one) => one.model === model)?.spec ?? StandInSpec.parse({});

/** The list with another way for one model. */
export const withStandIn = (list: readonly ModelStandIn[], model: string, spec: StandInSpec): ModelStandIn[] =>
  [...list.filter((one) => one.model !== model), { model, spec }].sort((a, b) => (a.model < b.model ? -1 : 1));
