import { z } from 'zod';

/** Whole names in which `*` stands for any letters. */
const NamePatterns = z.array(z.string().min(1).max(400)).min(1).max(200);

export const Vector = z.tuple([z.number(), z.number(), z.number()]);
export type Vector = z.infer<typeof Vector>;

/** A vector with a direction. */
export const Direction = Vector.refine((v) => Math.hypot(...v) > 1e-9, 'a direction has a length');

export const HexColour = z.string().regex(/^#[0-9a-fA-F]{6}$/, 'colours are written #rrggbb');

/**
 * A stretch of values: 1 between `from` and `to`, falling smoothly to 0 over `soft`, half of it inside and half outside each end; an end that is null is
 * open. Without softness both ends belong to it.
 */
const stretch = {
  from: z.number().nullable().default(null),
  to: z.number().nullable().default(null),
  soft: z.number().min(0).default(0),
};
export interface Stretch {
  from: number | null;
  to: number | null;
  soft: number;
}

/** Lets a border wander by noise, so that it is no straight line: by up to so many mm to either side, in waves of a size. */
const Wander = z
  .strictObject({
    by: z.number().gt(0).max(1e6),
    size: z.number().gt(0).max(1e6),
    seed: z.number().int().min(0).default(1),
  })
  .nullable()
  .default(null);

const seed = z.number().int().min(0).max(0x7fffffff).default(1);

/** Baked maps that conditions read, and what their values are. */
export const MAP_CONDITIONS = ['curvature', 'convex', 'concave', 'ao', 'thickness', 'height'] as const;
export type MapCondition = (typeof MAP_CONDITIONS)[number];

const NOISE_KINDS = ['value', 'ridged', 'cellular'] as const;
export type NoiseKind = (typeof NOISE_KINDS)[number];

export const MASK_CHANNELS = ['red', 'green', 'blue', 'alpha'] as const;

/** A point that marks a surface, in object space, m; with `joined` the way from the point before belongs to it. */
const StrokePoint = z.strictObject({
  at: Vector,
  /** mm */
  radius: z.number().gt(0).max(1e7),
  joined: z.boolean().default(false),
});

/** A value from 0 to 1 at every point of a surface, from one source. */
const Single = z.discriminatedUnion('of', [
  z.strictObject({
    of: z.literal('id'),
    /** Colours of an ID map, or of a picture of IDs that was drawn elsewhere. */
    colours: z.array(HexColour).max(64).default([]),
    /** What baked IDs are called: materials, parts, … as `inputs.ids` says; `*` stands for any letters. */
    names: z.array(z.string().min(1).max(400)).max(64).default([]),
    /** File of that picture; null: the ID map that is baked. */
    picture: z.string().min(1).nullable().default(null),
    /** Width over which the border is soft, mm. */
    soft: z.number().min(0).default(0),
  }),
  z.strictObject({ of: z.enum(['slot', 'part', 'model', 'group']), names: NamePatterns }),
  /** The islands on which some points lie, or the ones nearest to them; m, in object space. */
  z.strictObject({ of: z.literal('island'), at: z.array(Vector).min(1).max(1000) }),
  /** Curvature −1 … 1 (convex positive); convex, concave, AO and thickness 0 … 1; height mm. */
  z.strictObject({ of: z.enum(MAP_CONDITIONS), ...stretch }),
  z.strictObject({
    of: z.literal('position'),
    axis: z.enum(['x', 'y', 'z']),
    /** Of what the position is measured: world coordinates, or from an end of the part or model. */
    within: z.enum(['world', 'model', 'part']).default('world'),
    end: z.enum(['low', 'high']).default('low'),
    /** mm, or shares of the height of the part or model. */
    unit: z.enum(['mm', 'share']).default('mm'),
    wander: Wander,
    ...stretch,
  }),
  /** Angle between the surface's normal and a direction, degrees. */
  z.strictObject({ of: z.literal('facing'), direction: Direction.default([0, 1, 0]), ...stretch }),
  /** Distance to the nearest border of a UV island or of an ID, mm. */
  z.strictObject({ of: z.enum(['uv-border', 'id-border']), wander: Wander, ...stretch }),
  z.strictObject({ of: z.literal('random'), per: z.enum(['part', 'island', 'model']), seed, ...stretch }),
  z.strictObject({
    of: z.literal('noise'),
    kind: z.enum(NOISE_KINDS).default('value'),
    /** Width of its largest cells, mm. */
    size: z.number().gt(0).max(1e7),
    /** Layers, each half as large and half as strong as the one before. */
    layers: z.number().int().min(1).max(8).default(3),
    seed,
    ...stretch,
  }),
  z.strictObject({
    of: z.literal('mask'),
    picture: z.string().min(1),
    channel: z.enum(MASK_CHANNELS).default('red'),
    /** m a repeat, laid as a box; null: the picture lies on the UV layout. */
    metres: z.number().gt(0).nullable().default(null),
    ...stretch,
  }),
  z.strictObject({
    of: z.literal('strokes'),
    points: z.array(StrokePoint).min(1).max(20_000),
    /** Share of the radius over which it fades. */
    falloff: z.number().min(0).max(1).default(0.5),
    /** Axes across which the points are mirrored. */
    mirror: z
      .array(z.enum(['x', 'y', 'z']))
      .max(3)
      .default([]),
  }),
]);
export type SingleCondition = z.infer<typeof Single>;

/** Conditions joined: all of them (their product, or the least), any of them (the greatest), not one; or one that the recipe names for several lines. */
export type Condition =
  | SingleCondition
  | { all: Condition[]; by: 'product' | 'least' }
  | { any: Condition[] }
  | { not: Condition }
  | { use: string };

/** How deep conditions may stand in each other. */
const DEEPEST = 8;

const Use = z.strictObject({ use: z.string().min(1) });

/** Conditions that stand in each other so many times at the most: each level once, so that what nests without end is refused at its depth. */
function conditionOf(depth: number): z.ZodType<Condition> {
  if (depth === 0) return z.union([Single, Use], { error: `conditions stand in each other at most ${DEEPEST} deep` });
  const inner = conditionOf(depth - 1);
  const list = z.array(inner).min(1).max(20);
  return z.union([
    Single,
    z.strictObject({ all: list, by: z.enum(['product', 'least']).default('product') }),
    z.strictObject({ any: list }),
    z.strictObject({ not: inner }),
    Use,
  ]);
}

export const Condition: z.ZodType<Condition> = conditionOf(DEEPEST);

/** All single conditions in one, and the names of the shared ones that it uses. */
export function conditionLeaves(condition: Condition): { singles: SingleCondition[]; uses: string[] } {
  if ('of' in condition) return { singles: [condition], uses: [] };
  if ('use' in condition) return { singles: [], uses: [condition.use] };
  const inner = 'all' in condition ? condition.all : 'any' in condition ? condition.any : [condition.not];
  const leaves = inner.map(conditionLeaves);
  return { singles: leaves.flatMap((leaf) => leaf.singles), uses: leaves.flatMap((leaf) => leaf.uses) };
}
