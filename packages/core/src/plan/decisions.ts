import { z } from 'zod';

/** One shared output. */
export const SheetDecision = z.object({
  /** Stays the same when the sheet is renamed; routes name it. */
  id: z.string().regex(/^[a-z0-9]{1,8}$/, 'small letters and digits, at most 8'),
  name: z.string().regex(/^[A-Za-z0-9][A-Za-z0-9 _.-]{0,60}$/, 'letters, digits, space, _ . -; at most 61'),
  /** Side, px. */
  size: z
    .number()
    .int()
    .min(64)
    .max(8192)
    .refine((v) => (v & (v - 1)) === 0, 'a power of two'),
  /** Least gap between islands, px at the sheet's size; half of it to the border. */
  margin: z.number().min(0).max(256),
});
export type SheetDecision = z.infer<typeof SheetDecision>;

/** The route of a slot that is not merged. */
export const APART = 'apart';

const Fields = z.object({
  sheets: z
    .array(SheetDecision)
    .min(1, 'at least one sheet is needed')
    .max(16, 'at most 16 sheets')
    .default([{ id: '1', name: 'sheet', size: 2048, margin: 12 }]),
  /** Exact slot name → id of a sheet, or `apart`. Slots without a route are spread over the sheets by area. */
  routes: z.record(z.string(), z.string()).default({}),
  /** How far island colours are carried outward, px; null: as far as the margin. */
  padding: z.number().int().min(0).max(512).nullable().default(null),
  /** Samples per texel in all. */
  samples: z.union([z.literal(1), z.literal(4), z.literal(9), z.literal(16)]).default(4),
  rotate: z.enum(['none', 'quarter']).default('quarter'),
  scale: z.enum(['relative', 'even']).default('relative'),
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
  /** How far away the models will be seen, m; where the comparison opens. Null: as large as fits. */
  viewDistance: z.number().min(0.01).max(100_000).nullable().default(null),
});

/** What the user decides about a merge. Everything else is derived from this and the sources. */
export const MergeDecisions = Fields.superRefine((d, context) => {
  const fail = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message });
  const ids = new Set<string>([APART]);
  const names = new Set<string>();
  d.sheets.forEach((s, i) => {
    if (ids.has(s.id)) fail(['sheets', i, 'id'], `two sheets have the id "${s.id}"`);
    if (names.has(s.name.toLowerCase())) fail(['sheets', i, 'name'], `two sheets are called "${s.name}"`);
    ids.add(s.id);
    names.add(s.name.toLowerCase());
  });
  for (const [slot, to] of Object.entries(d.routes))
    if (!ids.has(to)) fail(['routes', slot], `"${slot}" is routed to a sheet that is not there`);
});
export type MergeDecisions = z.infer<typeof MergeDecisions>;

/** Sheets of one size and margin, called `name`, or `name_1`, `name_2`, … when there are several. */
export function evenSheets(count: number, name: string, size: number, margin: number): SheetDecision[] {
  return Array.from({ length: count }, (_, i) => ({
    id: String(i + 1),
    name: count === 1 ? name : `${name}_${i + 1}`,
    size,
    margin,
  }));
}

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
