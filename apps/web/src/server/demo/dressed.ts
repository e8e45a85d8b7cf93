import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { evenSheets } from '@wembrel/core/decisions/sheets';
import { buildDressed } from '@wembrel/demo/dressed/dressed';
import { DEMO_RECIPES } from '@wembrel/demo/dressed/recipes';
import type { MergeDecisions } from '../../contract/project.ts';

const FOLDER = 'dressed';

const recipe = (name: keyof typeof DEMO_RECIPES) => Recipe.parse(DEMO_RECIPES[name]);

/** Models and pictures; the recipes themselves are decisions. */
export function dressedFiles(): Record<string, Uint8Array> {
  const files = Object.entries(buildDressed()).filter(([name]) => !name.endsWith('.json'));
  return Object.fromEntries(files.map(([name, bytes]) => [`${FOLDER}/${name}`, bytes]));
}

/** A locker by a picture of IDs, lamp posts that share one recipe, and cells of the platform. */
export function dressedDecisions(): Partial<MergeDecisions> {
  const on = (name: keyof typeof DEMO_RECIPES, use: Partial<RecipeUse>) =>
    RecipeUse.parse({ recipe: recipe(name), sheets: [], ...use });
  const cell = { metres: [1, 1] as [number, number], px: 512 };
  return {
    sheets: evenSheets(1, 'halt', 1024, 12),
    recipes: [
      on('parcel-locker.recipe.json', { models: ['parcel-locker.glb'] }),
      on('lamp-posts.recipe.json', { models: ['lamp-post-*'], size: 512 }),
      on('paving.recipe.json', { cell }),
      on('paving-moss.recipe.json', { cell }),
      on('paving-to-gravel.recipe.json', { cell }),
    ],
  };
}

/** The recipe of the ticket post. */
export const postRecipe = (model: string): RecipeUse =>
  RecipeUse.parse({ recipe: recipe('ticket-post.recipe.json'), models: [model], sheets: [] });
