import { stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { isForModel, type RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { InputError } from '@wembrel/core/errors';
import { highsOfModel } from '@wembrel/core/rays/pairing/highs-of-model';
import type { JobScope } from '@wembrel/runner/pool/job-scope';
import { applyRecipe } from '@wembrel/runner/recipes/apply';
import { recipeCell } from '@wembrel/runner/recipes/cell';
import type { RecipeReport } from '@wembrel/runner/recipes/report';
import type { RecipeResultView } from '../../../contract/project.ts';
import type { Emit, JobOrder } from '../job-message.ts';

/** Lays a recipe of a project on all models that it is for, or on its cell. */
export async function layRecipe(order: JobOrder, scope: JobScope, emit: Emit): Promise<void> {
  const { decisions, folder, sheet: name } = order;
  const use = decisions.recipes.find(({ recipe }) => recipe.name === name);
  if (!use) throw new InputError(name ?? 'recipe', 'the project holds no such recipe any more');
  const report = use.cell
    ? await layOnCell(use, use.cell, order, scope, emit)
    : await layOnModels(use, order, scope, emit);
  const sizes: Record<string, number> = {};
  for (const file of report.written) sizes[file] = (await stat(join(folder, 'delivery', file))).size;
  const view: RecipeResultView = { ...report, made: use.recipe, proof: order.kind === 'recipe-proof', sizes };
  await writeFile(join(folder, 'recipe.json'), JSON.stringify(view));
}

/** What both ways share. */
const common = ({ recipe, samples }: RecipeUse, order: JobOrder, emit: Emit) => ({
  recipe,
  pictures: order.textures,
  out: join(order.folder, 'delivery'),
  grid: Math.sqrt(samples),
  proof: order.kind === 'recipe-proof',
  onProgress: ({ share, doing }: { share: number; doing: string }) => emit({ type: 'progress', share, doing }),
});

function layOnCell(
  use: RecipeUse,
  { px, metres }: NonNullable<RecipeUse['cell']>,
  order: JobOrder,
  scope: JobScope,
  emit: Emit,
): Promise<RecipeReport> {
  const [width, height] = metres;
  const size = [px, Math.max(1, Math.round((px * height) / width))] as const;
  return recipeCell(
    { ...common(use, order, emit), size, metres, nearest: false, colours: null, dithered: false },
    scope,
  );
}

function layOnModels(use: RecipeUse, order: JobOrder, scope: JobScope, emit: Emit): Promise<RecipeReport> {
  const { decisions } = order;
  const { pairings } = decisions.rays;
  const high = new Set(order.files.flatMap((file) => [...highsOfModel(pairings, file.name)]));
  const files = order.files.filter((file) => isForModel(use, file.name) && !high.has(file.name));
  if (files.length === 0) throw new InputError(use.recipe.name, 'it is for none of the models of this project');
  const highs = new Set(files.flatMap((file) => [...highsOfModel(pairings, file.name)]));
  return applyRecipe(
    {
      ...common(use, order, emit),
      files,
      high: order.files.filter((file) => highs.has(file.name)),
      highsOf: (path) => highsOfModel(pairings, path),
      textures: order.textures,
      reading: decisions.reading,
      maps: [],
      size: use.size,
      margin: use.margin,
      separate: use.separate,
      embed: false,
      faces: decisions.faces,
    },
    scope,
  );
}
