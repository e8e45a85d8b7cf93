import { z } from 'zod';

/** A surface of the plan that has no source yet: part of every prediction, until it is linked to a real slot. */
export const PlannedSurface = z.object({
  id: z.string().regex(/^[a-z0-9]{1,8}$/, 'small letters and digits, at most 8'),
  name: z.string().trim().min(1, 'a name is needed').max(80),
  note: z.string().trim().max(400).default(''),
  /** Colour that stands for it until there is a picture, `#rrggbb`. */
  colour: z
    .string()
    .regex(/^#[0-9a-f]{6}$/)
    .default('#808080'),
  /** Hash of an uploaded picture, or null. */
  picture: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .nullable()
    .default(null),
  /** Surface that it will cover, m². */
  area: z.number().min(0).max(1e6),
  /** Size at which it will be made, px. */
  width: z.number().int().min(1).max(16384).default(512),
  height: z.number().int().min(1).max(16384).default(512),
  repeats: z.enum(['none', 'one', 'both']).default('none'),
  /** What one repeat covers, m; null: not known yet. */
  repeatLength: z.number().min(0.001).max(10_000).nullable().default(null),
  maps: z.object({ normal: z.boolean().default(true), emissive: z.boolean().default(false) }).prefault({}),
  alpha: z.enum(['OPAQUE', 'MASK', 'BLEND']).default('OPAQUE'),
  /** Draw calls that it will take while it is not merged. */
  drawCalls: z.number().int().min(0).max(100_000).default(1),
  /** Id of a sheet, `apart`, or null: spread. */
  to: z.string().max(8).nullable().default(null),
  /** Name of the slot that has taken its place; it no longer counts then. */
  linked: z.string().max(400).nullable().default(null),
});

export type PlannedSurface = z.infer<typeof PlannedSurface>;

/** A picture of a planned surface that a slot has taken the place of: it is laid on the slot. */
export interface PlannedPicture {
  slot: string;
  /** Hash of the picture. */
  picture: string;
}

/** What such a picture is called among files, before the name of its slot. */
export const PLANNED_PICTURE = 'planned picture of ';

/** Pictures of planned surfaces for the slots that have taken their places. */
export function plannedPictures(planned: readonly PlannedSurface[]): PlannedPicture[] {
  return planned.flatMap(({ linked, picture }) =>
    linked !== null && picture !== null ? [{ slot: linked, picture }] : [],
  );
}
