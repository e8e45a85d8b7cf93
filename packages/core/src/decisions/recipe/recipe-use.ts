import { z } from 'zod';
import { fitsPattern } from '../patterns.ts';
import { Recipe } from './recipe.ts';

const patterns = z.array(z.string().min(1).max(400)).min(1).max(200).default(['*']);

/** A recipe of a project, and what of its sheets it is laid on once materials are baked. */
export const RecipeUse = z.strictObject({
  recipe: Recipe,
  /** Models by their paths or file names; `*` stands for any letters. */
  models: patterns,
  /** Sheets by name. */
  sheets: patterns,
});
export type RecipeUse = z.infer<typeof RecipeUse>;

const fits = (name: string, list: readonly string[]) => list.some((pattern) => fitsPattern(name, pattern));

/** Whether a recipe is meant for a model. */
export const isForModel = ({ models }: RecipeUse, path: string): boolean =>
  fits(path, models) || fits(path.replace(/^.*[\\/]/, ''), models);

/** Whether a recipe is meant for a sheet. */
export const isForSheet = ({ sheets }: RecipeUse, name: string): boolean => fits(name, sheets);
