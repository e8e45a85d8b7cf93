import { z } from 'zod';
import { Direction, HexColour, Vector } from './condition.ts';

/** What a look has values for; `alpha` is written only where a line asks for it, else it says where a look is there. */
const RECIPE_CHANNELS = ['color', 'alpha', 'occlusion', 'roughness', 'metallic', 'normal', 'emissive'] as const;
export type RecipeChannel = (typeof RECIPE_CHANNELS)[number];

const STOCK_LOOKS = [
  'enamel',
  'zinc',
  'oak',
  'brick',
  'moss',
  'grime',
  'rust',
  'brass',
  'glass',
  'asphalt',
  'paint',
  'paper',
] as const;
export type StockLook = (typeof STOCK_LOOKS)[number];

const unit = z.number().min(0).max(1);

/** Where the pictures or values of a look come from. */
export const LookSource = z.discriminatedUnion('from', [
  z.strictObject({ from: z.literal('stock'), look: z.enum(STOCK_LOOKS) }),
  /** A material of a model that is read; the first whose names fit. */
  z.strictObject({ from: z.literal('slot'), slot: z.string().min(1), model: z.string().min(1).default('*') }),
  /** Texture files, told apart by the endings of their names; `*` stands for any letters. */
  z.strictObject({ from: z.literal('files'), names: z.string().min(1) }),
  z.strictObject({
    from: z.literal('values'),
    color: HexColour.optional(),
    alpha: unit.optional(),
    occlusion: unit.optional(),
    roughness: unit.optional(),
    metallic: unit.optional(),
    emissive: HexColour.optional(),
  }),
]);
export type LookSource = z.infer<typeof LookSource>;

const turn = z.number().min(-360).max(360).default(0);
const seed = z.number().int().min(0).max(0x7fffffff).default(1);

/** m a repeat; null: as large as the look really is. */
const metres = z.number().gt(0).max(1e6).nullable().default(null);
const offset = z.tuple([z.number(), z.number()]).default([0, 0]);

/** How visible repetition is broken up: by moves (and turns) blended over hexagonal cells, or by whole courses of masonry and boards. */
const BreakUp = z.strictObject({
  by: z.enum(['cells', 'courses']).default('cells'),
  /** Width of the cells as a share of one repeat. */
  cell: z.number().min(0.05).max(4).default(0.4),
  /** The cells are turned as well: for looks without a direction. */
  turned: z.boolean().default(false),
  seed,
});
export type BreakUp = z.infer<typeof BreakUp>;

/** How a look lies on a surface. */
export const Lay = z.discriminatedUnion('by', [
  z.strictObject({
    by: z.literal('uv'),
    metres,
    turn,
    /** In repeats. */
    offset,
    breakUp: BreakUp.nullable().default(null),
  }),
  z.strictObject({
    by: z.literal('box'),
    metres,
    turn,
    offset,
    /** How far two sides are blended: 0 not at all, 1 over everything. */
    blend: unit.default(0.2),
    breakUp: BreakUp.nullable().default(null),
  }),
  /** Once, from one side, through everything within a depth: a decal. */
  z.strictObject({
    by: z.literal('side'),
    /** Its middle, m. */
    at: Vector,
    /** From the surface towards who looks at it. */
    direction: Direction,
    /** Which way its upper edge lies. */
    up: Direction.default([0, 1, 0]),
    /** m */
    width: z.number().gt(0).max(1e6),
    height: z.number().gt(0).max(1e6),
    /** To both sides of its middle, m. */
    depth: z.number().gt(0).max(1e6),
    turn,
    /** Faces that look away by more are left out, degrees. */
    facing: z.number().min(1).max(180).default(75),
  }),
  /** Copies spread by chance, each laid from its own side. */
  z.strictObject({
    by: z.literal('scatter'),
    count: z.number().int().min(1).max(100_000),
    /** Width of a copy, m; between the two. */
    metres: z.tuple([z.number().gt(0), z.number().gt(0)]),
    /** Turned by up to so much to either side, degrees. */
    turned: z.number().min(0).max(180).default(180),
    seed,
  }),
]);
export type Lay = z.infer<typeof Lay>;

/** A change of what is there. */
const Change = z.discriminatedUnion('change', [
  /** Takes the hue and chroma of a colour and keeps the lightness. */
  z.strictObject({ change: z.literal('tint'), color: HexColour }),
  z.strictObject({ change: z.literal('multiply'), color: HexColour }),
  /** Towards white, or towards black, by a share. */
  z.strictObject({ change: z.enum(['lighten', 'darken']), by: unit }),
  z.strictObject({
    change: z.literal('hue'),
    degrees: z.number().min(-180).max(180).default(0),
    /** Factor of the chroma. */
    chroma: z.number().min(0).max(4).default(1),
    /** Added to the lightness in OKLab. */
    lightness: z.number().min(-1).max(1).default(0),
  }),
  /** Added to the roughness. */
  z.strictObject({ change: z.literal('roughen'), by: z.number().min(-1).max(1) }),
  /** What was `black` becomes 0, what was `white` 1, with a bend between. */
  z.strictObject({
    change: z.literal('levels'),
    channel: z.enum(['color', 'occlusion', 'roughness', 'metallic']),
    black: unit.default(0),
    white: unit.default(1),
    gamma: z.number().min(0.1).max(10).default(1),
  }),
]);
export type Change = z.infer<typeof Change>;

/** What a line puts on the surface: a look and how it lies, or a change. */
export const What = z.union([
  z.strictObject({
    look: LookSource,
    lay: Lay.prefault({ by: 'box' }),
    /** Null: all that the look has, except alpha. None: only relief and shadow come of it. */
    channels: z.array(z.enum(RECIPE_CHANNELS)).nullable().default(null),
  }),
  Change,
]);
export type What = z.infer<typeof What>;
