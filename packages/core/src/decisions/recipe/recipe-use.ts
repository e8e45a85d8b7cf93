import { z } from 'zod';
import { fitsFile, fitsPattern } from '../patterns.ts';
import { Recipe } from './recipe.ts';

const patterns = z.array(z.string().min(1).max(400)).min(1).max(200).default(['*']);

/** A recipe of a project, and what of its sheets it is laid on once materials are baked. */
export const RecipeUse = z.strictObject({
  recipe: Recipe,
  /** Models by their paths or file names; `*` stands for any letters. */
  models: patterns,
  /** Sheets of a merge by name; none: it is laid on models only. */
  sheets: z.array(z.string().min(1).max(400)).max(200).default(['*']),
  /** It is for a cell of a tile sheet instead of models: width and height on the ground, m, and its side, px. */
  cell: z
    .strictObject({
      metres: z.tuple([z.number().gt(0).max(1e4), z.number().gt(0).max(1e4)]),
      px: z.number().int().min(1).max(8192).default(512),
    })
    .nullable()
    .default(null),
  /** Of the sheet that each model gets of its own: side and least gap between islands, px; samples a texel in all. */
  size: z.number().int().min(16).max(8192).default(1024),
  margin: z.number().int().min(0).max(256).default(8),
  samples: z.union([z.literal(1), z.literal(4), z.literal(16)]).default(4),
  /** Islands that lie over each other get places of their own. */
  separate: z.boolean().default(false),
});
export type RecipeUse = z.infer<typeof RecipeUse>;

const fits = (name: string, list: readonly string[]) => list.some((pattern) => fitsPattern(name, pattern));

/** Whether a recipe is meant for a model. */
export const isForModel = ({ models, cell }: RecipeUse, path: string): boolean =>
  cell === null && models.some((pattern) => fitsFile(path, pattern));

/** Whether a recipe is meant for a sheet. */
export const isForSheet = ({ sheets }: RecipeUse, name: string): boolean => fits(name, sheets);
