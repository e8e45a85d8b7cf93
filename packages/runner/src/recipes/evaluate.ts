import type { SheetMaps } from '@wembrel/core/bake/transfer';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { type Checkpoints, levelsOfDetail } from '@wembrel/core/recipes/evaluate';
import type { RecipeInputs } from '@wembrel/core/recipes/inputs/input-maps';
import type { RecipeJob } from '@wembrel/core/recipes/job';
import type { PreparedLines } from '@wembrel/core/recipes/prepare';
import { pxSteps } from '@wembrel/core/recipes/samples';
import { metresPerPx, type RecipeSurface } from '@wembrel/core/recipes/surface';
import type { JobScope } from '../pool/job-scope.ts';
import { recipeTasks } from './recipe-tasks.ts';
import { overTiles, sharedTiles } from './tiles.ts';

/** How far a line of a recipe reaches. */
export interface LineReport {
  line: string;
  /** Texels that it covers by any amount. */
  texels: number;
  /** By how much of each, in the mean, 0 … 1. */
  mean: number;
}

export interface EvaluateInput {
  recipe: Recipe;
  prepared: PreparedLines;
  surface: RecipeSurface;
  inputs: RecipeInputs;
  /** What is there before; it is written over. */
  maps: SheetMaps;
  /** Samples of a texel along an axis. */
  grid: number;
  /** States between lines that are kept, and taken up: for one sample a texel. */
  checkpoints?: Checkpoints;
}

/** Lays all lines over the maps of a sheet, by all threads; the result does not depend on their number. @throws Cancelled */
export async function evaluateRecipe(
  { recipe, prepared, surface, inputs, maps, grid, checkpoints }: EvaluateInput,
  scope: JobScope,
  progress?: (share: number) => void,
): Promise<LineReport[]> {
  const { lines, looks } = prepared;
  const lods = levelsOfDetail(metresPerPx(surface), grid);
  const job: RecipeJob = { recipe, lines, looks, surface, steps: pxSteps(surface), lods, inputs, grid, maps };
  const tiles = sharedTiles(surface, scope);
  const reached = new Float64Array(new SharedArrayBuffer(Math.max(1, tiles.numbers.length * lines.length) * 16));
  await overTiles(
    tiles,
    scope,
    (slot) => scope.run(recipeTasks.evaluate, { job, tiles, slot, reached, checkpoints: checkpoints ?? null }),
    progress,
  );
  return lines.map((number, k) => {
    let [texels, sum] = [0, 0];
    for (let t = 0; t < tiles.numbers.length; t++) {
      texels += reached[(t * lines.length + k) * 2];
      sum += reached[(t * lines.length + k) * 2 + 1];
    }
    return { line: recipe.lines[number].name, texels, mean: texels > 0 ? Number((sum / texels).toFixed(4)) : 0 };
  });
}
