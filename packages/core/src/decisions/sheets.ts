import { z } from 'zod';

/** What a sheet is made of: see the reference, "Kinds of sheet". */
const SHEET_KINDS = ['atlas', 'trim', 'tile', 'palette'] as const;
export type SheetKind = (typeof SHEET_KINDS)[number];

/** The maps that a sheet may have; `orm` holds occlusion, roughness and metallic. */
export const SHEET_MAPS = ['baseColor', 'orm', 'normal', 'emissive'] as const;
export type SheetMap = (typeof SHEET_MAPS)[number];

const Side = z
  .number()
  .int()
  .min(64)
  .max(8192)
  .refine((v) => (v & (v - 1)) === 0, 'a power of two');

/** The map is stored at the sheet's side divided by this. */
const Divisor = z.union([z.literal(1), z.literal(2), z.literal(4), z.literal(8)]);
const DivisorOrOff = z.union([Divisor, z.literal('off')]);

const Px = z.number().int().min(0).max(8192);

/** Room that stays free for what comes later. */
export const Reserve = z.object({
  id: z.string().regex(/^[a-z0-9]{1,8}$/, 'small letters and digits, at most 8'),
  /** Upper left and size, px at the sheet's size. */
  x: Px,
  y: Px,
  width: Px.min(1),
  height: Px.min(1),
  note: z.string().trim().max(200).default(''),
});
export type Reserve = z.infer<typeof Reserve>;

/** Bays that may be locked or mirrored on one sheet. */
const MOST_BAYS = 50_000;

/** Greatest px per texel of a source that a bay may be held at. */
export const SHARPEST = 64;

/** By what a bay is known again; see `plotKeys`. */
const BayKey = z.string().min(1).max(400);

/** Where a bay stays: one that was locked by hand, or one of a sheet that was handed over and grows. */
const BayPlace = z.object({
  /** Upper left and size of its box as turned, px. Where it is turned by no quarter the box may reach over the sheet's sides, the shape not. */
  x: z.number().min(-8192).max(8192),
  y: z.number().min(-8192).max(8192),
  width: z.number().min(0.5).max(8192),
  height: z.number().min(0.5).max(8192),
  /** Quarter turns. */
  turns: z.union([z.literal(0), z.literal(1), z.literal(2), z.literal(3)]),
  /** Where it is turned by no quarter: cosine and sine. */
  direction: z.tuple([z.number().min(-1).max(1), z.number().min(-1).max(1)]).optional(),
  /** px per texel of the source. */
  scale: z.number().positive().max(SHARPEST),
});
type BayPlace = z.infer<typeof BayPlace>;

export const PinnedBay = BayPlace.extend({ key: BayKey });
export type PinnedBay = z.infer<typeof PinnedBay>;

/** Places under the keys of their bays. */
export type PinnedBays = Record<string, BayPlace>;

export function pinnedBays(list: readonly PinnedBay[]): PinnedBays {
  return Object.fromEntries(list.map(({ key, ...place }) => [key, place]));
}

/** In the order of their keys, so that it does not matter in which order they were locked. */
export function pinnedList(bays: PinnedBays): PinnedBay[] {
  return Object.keys(bays)
    .sort()
    .map((key) => ({ key, ...bays[key] }));
}

/** A list is read too, as earlier plan files have it. */
const PinnedBayMap: z.ZodType<PinnedBays, PinnedBays | PinnedBay[]> = z.union([
  z.record(BayKey, BayPlace).refine((o) => Object.keys(o).length <= MOST_BAYS, `at most ${MOST_BAYS} bays`),
  z.array(PinnedBay).max(MOST_BAYS).transform(pinnedBays),
]);

/** What finds a layout again: the seed of what is shaken, and how many rounds. */
export const PackingSearch = z.object({
  seed: z.number().int().min(0).max(0x7fffffff),
  rounds: z.number().int().min(0).max(100_000),
});
export type PackingSearch = z.infer<typeof PackingSearch>;

/** Sheets of a plan at most. */
export const MOST_SHEETS = 64;

/** Sides of sheets that are proposed, px. */
export const PROPOSED_SIDES = [64, 128, 256, 512, 1024, 2048, 4096];

/** One shared output. */
export const SheetDecision = z.object({
  /** Stays the same when the sheet is renamed; routes name it. */
  id: z.string().regex(/^[a-z0-9]{1,8}$/, 'small letters and digits, at most 8'),
  name: z.string().regex(/^[\p{L}\p{N}][\p{L}\p{M}\p{N} _.-]{0,60}$/u, 'letters, digits, space, _ . -; at most 61'),
  kind: z.enum(SHEET_KINDS).default('atlas'),
  /** Width, px; also the height where that is not given. */
  size: Side,
  height: Side.nullable().default(null),
  /** Least gap between islands, px at the sheet's size; half of it to the border. */
  margin: z.number().min(0).max(256),
  /** Side of a palette's swatches, px. */
  swatch: z.number().int().min(2).max(256).default(16),
  /** Side of the picture that a cell of a tile sheet holds, px; its padding comes on top. */
  cell: z.number().int().min(8).max(4096).default(256),
  /** How finely each map is stored, or that it is left out. */
  maps: z
    .object({
      baseColor: Divisor.default(1),
      orm: DivisorOrOff.default(1),
      normal: DivisorOrOff.default(1),
      emissive: DivisorOrOff.default(1),
    })
    .prefault({}),
  reserves: z.array(Reserve).max(32).default([]),
  /** Bays that stay where they were handed over, while new ones take free room. */
  pinned: PinnedBayMap.default({}),
  /** Bays that keep their places to each other, as they lay when that was said; packing moves each group as one. */
  rigid: z.array(z.array(PinnedBay).min(2).max(2000)).max(200).default([]),
  /** Bays that lie mirrored, from right to left before they are turned: keys as those of `PinnedBay`. */
  flipped: z.array(BayKey).max(MOST_BAYS).default([]),
  /** How a tighter layout was found by continued search; goes before the plan's effort and seed. Null: nobody has looked. */
  search: PackingSearch.nullable().default(null),
});
export type SheetDecision = z.infer<typeof SheetDecision>;

/** Width and height, px. */
export function sheetSides(sheet: Pick<SheetDecision, 'size' | 'height'>): [width: number, height: number] {
  return [sheet.size, sheet.height ?? sheet.size];
}

/** Size at which a map is stored, px; null when it is left out. */
export function mapSides(
  sheet: Pick<SheetDecision, 'size' | 'height' | 'maps'>,
  map: SheetMap,
): [number, number] | null {
  const by = sheet.maps[map];
  if (by === 'off') return null;
  const [w, h] = sheetSides(sheet);
  return [Math.max(1, w / by), Math.max(1, h / by)];
}

/** A reserve moved and cut so that it lies on a sheet of that size. */
export function fitReserve(r: Reserve, width: number, height: number): Reserve {
  const w = Math.min(width, Math.max(1, r.width));
  const h = Math.min(height, Math.max(1, r.height));
  return {
    ...r,
    width: w,
    height: h,
    x: Math.min(width - w, Math.max(0, r.x)),
    y: Math.min(height - h, Math.max(0, r.y)),
  };
}

/** A sheet of that size with everything else as it is at first. */
export function plainSheet(id: string, name: string, size: number, margin: number): SheetDecision {
  return SheetDecision.parse({ id, name, size, margin });
}

/** Sheets of one size and margin, called `name`, or `name_1`, `name_2`, … when there are several. */
export function evenSheets(count: number, name: string, size: number, margin: number): SheetDecision[] {
  return sheetInputs(count, name, size, margin).map((input) => SheetDecision.parse(input));
}

/** The same before anything is checked. */
export function sheetInputs(
  count: number,
  name: string,
  size: number,
  margin: number,
): z.input<typeof SheetDecision>[] {
  return Array.from({ length: count }, (_, i) => ({
    id: String(i + 1),
    name: count === 1 ? name : `${name}_${i + 1}`,
    size,
    margin,
  }));
}

/** The smallest mip level at which a gap of `px` keeps two islands apart, −1 if not even mip 0 ("Margin, padding, mips"). */
export function protectedMip(px: number): number {
  return px < 3 ? -1 : Math.floor(Math.log2(px / 3));
}

/**
 * Bays of whole textures stand on multiples of this, px: so the mips of the sheet are those of the texture as far as the margin protects
 * them, and one level beyond, into which they are blended.
 */
export function mipAlign(margin: number): number {
  return 2 ** (Math.max(0, protectedMip(margin)) + 1);
}

/** Margin that protects mip k. */
export function marginForMip(k: number): number {
  return 3 * 2 ** k;
}

/** Side of a swatch on a sheet that is no palette, px. */
export const SWATCH_SIDE = 4;
