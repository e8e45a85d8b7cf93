import { dirname } from 'node:path';
import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { namesPictures } from '@wembrel/core/recipes/inputs/needs';
import { collectPictures, type InputFile } from '@wembrel/runner/read/collect';
import type { OptionSpec, Values } from './arguments.ts';
import { jsonFile } from './reading.ts';

/** Recipes that are laid on sheets once their materials are baked. */
export const MERGE_RECIPES: Record<string, OptionSpec> = {
  recipe: {
    type: 'string',
    multiple: true,
    value: 'FILE',
    help: 'a recipe that is laid on the sheets once materials are baked; repeatable, one after the other',
  },
  'recipe-for': {
    type: 'string',
    multiple: true,
    value: 'MODEL',
    help: 'only for models whose file name fits; repeatable (default: all)',
  },
  pictures: {
    type: 'string',
    multiple: true,
    value: 'DIR',
    help: 'where the pictures lie that recipes name; repeatable (default: beside them)',
  },
};

/** Folders that are searched for pictures: those that are given, else where recipes lie that name any. */
export function pictureFolders(values: Values, files: readonly string[], recipes: readonly Recipe[]): string[] {
  const beside = files.filter((_, i) => namesPictures(recipes[i])).map((file) => dirname(file));
  return (values.pictures as string[] | undefined) ?? [...new Set(beside)];
}

/** Recipes of the options with the pictures that they may name. @throws UsageError */
export async function mergeRecipes(
  values: Values,
): Promise<{ recipes: RecipeUse[]; pictures: InputFile[]; close: () => Promise<void> }> {
  const files = (values.recipe as string[] | undefined) ?? [];
  const models = (values['recipe-for'] as string[] | undefined) ?? ['*'];
  const recipes: RecipeUse[] = [];
  for (const file of files) recipes.push(RecipeUse.parse({ recipe: await jsonFile('recipe', file, Recipe), models }));
  const found = await collectPictures(
    pictureFolders(
      values,
      files,
      recipes.map(({ recipe }) => recipe),
    ),
  );
  return { recipes, pictures: [...found.files, ...found.textures], close: () => found.close() };
}
