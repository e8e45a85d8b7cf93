import { z } from 'zod';

/** What the user decides about a merge. Everything else is derived from this and the sources. */
export const MergeDecisions = z.object({
  /** Base name of sheets; with several, a number follows. */
  sheetName: z
    .string()
    .regex(/^[A-Za-z0-9][A-Za-z0-9 _.-]{0,60}$/, 'letters, digits, space, _ . -; at most 61')
    .default('sheet'),
  sheets: z.number().int().min(1).max(16).default(1),
  /** Side of a sheet, px. */
  size: z
    .number()
    .int()
    .min(64)
    .max(8192)
    .refine((v) => (v & (v - 1)) === 0, 'a power of two')
    .default(2048),
  /** Least gap between islands, px at the sheet's size; half of it to the border. */
  margin: z.number().min(0).max(256).default(12),
  /** How far island colours are carried outward, px; null: as far as the margin. */
  padding: z.number().int().min(0).max(512).nullable().default(null),
  /** Samples per texel in all. */
  samples: z.union([z.literal(1), z.literal(4), z.literal(9), z.literal(16)]).default(4),
  rotate: z.enum(['none', 'quarter']).default('quarter'),
  scale: z.enum(['relative', 'even']).default('relative'),
  /** Slots by exact name that are not merged. */
  keepApart: z.array(z.string()).default([]),
  /** Parts by exact name that `join` leaves alone. */
  keepParts: z.array(z.string()).default([]),
  /** Join parts of a model that then share a slot. */
  join: z.boolean().default(false),
  /** Textures inside each GLB instead of beside it. */
  embed: z.boolean().default(false),
  /** Repeats of a tiling surface that are baked in, along one axis, before the slot is kept apart instead. */
  maxRepeats: z.number().int().min(1).max(64).default(4),
  /** Attempts of the packer at improving the layout. */
  effort: z.number().int().min(0).max(64).default(6),
  seed: z.number().int().min(0).max(0x7fffffff).default(1),
});
export type MergeDecisions = z.infer<typeof MergeDecisions>;

/** A quarter of the side, for a look before the final bake. */
export const PROOF_DIVISOR = 4;

/** The smallest mip level at which a gap of `px` keeps two islands apart, −1 if not even mip 0 ("Margin, padding, mips"). */
export function protectedMip(px: number): number {
  return px < 3 ? -1 : Math.floor(Math.log2(px / 3));
}

/** Margin that protects mip k. */
export function marginForMip(k: number): number {
  return 3 * 2 ** k;
}
