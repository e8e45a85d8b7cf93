import { stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { isForModel } from '@wembrel/core/decisions/recipe/recipe-use';
import { InputError } from '@wembrel/core/errors';
import { highsOfModel } from '@wembrel/core/rays/pairing/highs-of-model';
import type { JobScope } from '@wembrel/runner/pool/job-scope';
import { applyRecipe } from '@wembrel/runner/recipes/apply';
import type { RecipeResultView } from '../../../contract/project.ts';
import type { Emit, JobOrder } from '../job-message.ts';

/** Lays a recipe of a project on all models that it is for. */
export async function layRecipe(order: JobOrder, scope: JobScope, emit: Emit): Promise<void> {
  const { decisions, folder, sheet: name } = order;
  const use = decisions.recipes.find(({ recipe }) => recipe.name === name);
  if (!use) throw new InputError(name ?? 'recipe', 'the project holds no such recipe any more');
  const { pairings } = decisions.rays;
  const high = new Set(order.files.flatMap((file) => [...highsOfModel(pairings, file.name)]));
  const files = order.files.filter((file) => isForModel(use, file.name) && !high.has(file.name));
  if (files.length === 0) throw new InputError(use.recipe.name, 'it is for none of the models of this project');
  const highs = new Set(files.flatMap((file) => [...highsOfModel(pairings, file.name)]));
  const proof = order.kind === 'recipe-proof';
  const out = join(folder, 'delivery');
  const report = await applyRecipe(
    {
      files,
      high: order.files.filter((file) => highs.has(file.name)),
      highsOf: (path) => highsOfModel(pairings, path),
      recipe: use.recipe,
      pictures: order.textures,
      textures: order.textures,
      reading: decisions.reading,
      maps: [],
      out,
      size: use.size,
      margin: use.margin,
      grid: Math.sqrt(use.samples),
      separate: use.separate,
      embed: false,
      proof,
      faces: decisions.faces,
      onProgress: ({ share, doing }) => emit({ type: 'progress', share, doing }),
    },
    scope,
  );
  const sizes: Record<string, number> = {};
  for (const file of report.written) sizes[file] = (await stat(join(out, file))).size;
  const view: RecipeResultView = { ...report, made: use.recipe, proof, sizes };
  await writeFile(join(folder, 'recipe.json'), JSON.stringify(view));
}
