import { z } from 'zod';
import { MAP_KINDS } from './map-kinds.ts';

/** A placed mesh, by its file and name. */
const BodyRefSchema = z.strictObject({ path: z.string().min(1), name: z.string() });

const reach = z.number().min(0).max(1e6);

/** A touch of the brush: around a point, rays have other reaches or another direction; see `Brushed`. */
export const BrushStamp = z.strictObject({
  /** Point of the low-poly in the scene, m. */
  at: z.tuple([z.number(), z.number(), z.number()]),
  /** m */
  radius: z.number().gt(0).max(1e6),
  /** Reaches in its middle, as shares of the pairing's. */
  outward: z.number().min(0).max(100).default(1),
  inward: z.number().min(0).max(100).default(1),
  /** Share of the face's normal in the direction of rays in its middle. */
  straight: z.number().min(0).max(1).default(0),
});
export type BrushStamp = z.infer<typeof BrushStamp>;

/** A high-poly and a low-poly that are baked together. */
export const PairingDecision = z.strictObject({
  name: z.string().min(1).max(80),
  high: z.array(BodyRefSchema).max(1000),
  low: z.array(BodyRefSchema).max(1000),
  /** Name of the maps that it is baked onto; null: that of its low-poly's file. Pairings of one name share their maps. */
  sheet: z
    .string()
    .regex(/^[A-Za-z0-9][A-Za-z0-9_. -]{0,60}$/, 'names of maps take letters, digits, space, _ . -')
    .nullable()
    .default(null),
  /** m; null: measured. */
  outward: reach.nullable().default(null),
  inward: reach.nullable().default(null),
  /** The high-poly is moved by this before rays are cast, m. */
  move: z.tuple([z.number(), z.number(), z.number()]).default([0, 0, 0]),
  /** A mesh like the low-poly, corner for corner, from which rays start: it replaces cast direction and outward reach. */
  cage: BodyRefSchema.nullable().default(null),
  /** A denser copy of the low-poly with the same UVs, from which rays are cast in its stead. */
  surface: BodyRefSchema.nullable().default(null),
  /** Reaches of single bodies of the low-poly as shares of the pairing's. */
  offsets: z.record(z.string(), z.number().min(0).max(100)).default({}),
  /** What the brush has changed, the last over the others. */
  localReaches: z.array(BrushStamp).max(2000).default([]),
});
export type PairingDecision = z.infer<typeof PairingDecision>;

export const CAST_MODES = ['smoothed', 'own', 'faceted', 'blended'] as const;
export type CastMode = (typeof CAST_MODES)[number];

/** What ID colours tell apart. */
export const ID_KINDS = ['material', 'own-colour', 'part', 'island', 'vertex-color', 'group', 'piece'] as const;

export const RAY_SAMPLES = [1, 4, 16, 64] as const;

/** How a set of pairings is baked. */
export const RaySettings = z.strictObject({
  maps: z.array(z.enum(MAP_KINDS)).min(1).default(['normal', 'ao']),
  /** Side of the maps, px. */
  size: z.number().int().min(16).max(8192).default(1024),
  /** In all a texel. */
  samples: z.union([z.literal(1), z.literal(4), z.literal(16), z.literal(64)]).default(4),
  cast: z.enum(CAST_MODES).default('smoothed'),
  /** Of `blended`: 0 smoothed, 1 own. */
  blend: z.number().min(0).max(1).default(0.5),
  /** The first hit from outside, or the one nearest to the low-poly. */
  hit: z.enum(['outside', 'nearest']).default('outside'),
  /** Back faces of the high-poly count too. */
  backFaces: z.boolean().default(false),
  normalY: z.enum(['up', 'down']).default('up'),
  /** Of a channel; 32: floats (EXR), IDs stay at 8. */
  bits: z.union([z.literal(8), z.literal(16), z.literal(32)]).default(8),
  /** px */
  padding: z.number().int().min(0).max(512).default(16),
  /** Least gap between islands below which it is a fault, px. */
  margin: z.number().int().min(0).max(256).default(4),
  uvSet: z.number().int().min(0).max(7).default(0),
  ao: z
    .strictObject({
      /** Rays a texel. */
      rays: z.number().int().min(4).max(4096).default(64),
      /** m; null: without limit. */
      distance: z.number().gt(0).nullable().default(null),
      /** The pairing's own high-poly, or all of them. */
      sees: z.enum(['own', 'all']).default('own'),
    })
    .prefault({}),
  curvature: z
    .strictObject({
      /** m: 1/radius is full white; null: a hundredth of the largest side. */
      radius: z.number().gt(0).nullable().default(null),
      /** Directions a texel, each at three distances. */
      directions: z.number().int().min(4).max(256).default(16),
    })
    .prefault({}),
  thickness: z
    .strictObject({
      /** m that count as thick; null: half of the largest side. */
      distance: z.number().gt(0).nullable().default(null),
      /** Rays a texel. */
      rays: z.number().int().min(4).max(4096).default(32),
    })
    .prefault({}),
  id: z
    .strictObject({
      by: z.enum(ID_KINDS).default('material'),
      /** Width over which two colours are mixed where they meet, px. */
      soften: z.number().min(0).max(16).default(0),
    })
    .prefault({}),
});
export type RaySettings = z.infer<typeof RaySettings>;
/** The same as it is written, with what has a default left out. */
export type RayRecipeInput = z.input<typeof RaySettings>;

/** The same maps at a quarter of the side with few rays, for a look before the final. */
export const RAY_PROOF_DIVISOR = 4;
export function proofSettings(r: RaySettings): RaySettings {
  return {
    ...r,
    samples: 1,
    ao: { ...r.ao, rays: Math.min(16, r.ao.rays) },
    curvature: { ...r.curvature, directions: Math.min(4, r.curvature.directions) },
    thickness: { ...r.thickness, rays: Math.min(8, r.thickness.rays) },
  };
}

/** All that a ray bake of a project decides. */
export const RayDecisions = z.strictObject({
  pairings: z
    .array(PairingDecision)
    .max(2000)
    .superRefine((list, context) => {
      const names = new Set<string>();
      list.forEach((pairing, i) => {
        if (names.has(pairing.name))
          context.addIssue({ code: 'custom', path: [i, 'name'], message: `two pairings are called "${pairing.name}"` });
        names.add(pairing.name);
      });
    })
    .default([]),
  /** Endings by which names tell a high-poly and a low-poly. */
  endings: z
    .strictObject({
      high: z.array(z.string().min(1).max(40)).min(1).default(['_high', '_hp', ' high', '-high']),
      low: z.array(z.string().min(1).max(40)).min(1).default(['_low', '_lp', ' low', '-low']),
    })
    .prefault({}),
  settings: RaySettings.prefault({}),
});
export type RayDecisions = z.infer<typeof RayDecisions>;
