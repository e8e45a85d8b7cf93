import type { SheetMaps } from '../bake/transfer-input.ts';
import type { Recipe } from '../decisions/recipe/recipe.ts';
import type { RecipeInputs } from './inputs/input-maps.ts';
import type { LookData } from './looks/look-data.ts';
import type { PxSteps } from './samples.ts';
import type { RecipeSurface } from './surface.ts';

/** A recipe with all that it reads, for worker threads: plain data, arrays in shared memory. */
export interface RecipeJob {
  recipe: Recipe;
  /** Lines that are evaluated, by their number in the recipe. */
  lines: readonly number[];
  /** Looks by the number of their line. */
  looks: Readonly<Record<number, LookData>>;
  surface: RecipeSurface;
  steps: PxSteps;
  /** See `levelsOfDetail`. */
  lods: Float32Array;
  inputs: RecipeInputs;
  /** Samples of a texel along an axis. */
  grid: number;
  /** What is there before; it is written over. */
  maps: SheetMaps;
}
