import type { Recipe, RecipeLine } from '@wembrel/core/decisions/recipe/recipe';
import { isForModel, type RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { useViewValue } from '../../../project/address.ts';
import type { ViewProps } from '../../../project/view-props.ts';
import { withLine, withRecipe, withUse } from './recipe-edits.ts';

/** The recipe that is written, as it is stored and as it is being tried. */
export interface RecipeHandle {
  /** Of the model in sight, or of cells. */
  uses: RecipeUse[];
  use: RecipeUse | null;
  /** With what is being dragged. */
  recipe: Recipe | null;
  choose: (name: string | null) => void;
  change: (label: string, change: (recipe: Recipe) => Recipe, trial?: boolean) => void;
  changeLine: (name: string, change: (line: RecipeLine) => RecipeLine, label: string, trial?: boolean) => void;
  changeUse: (label: string, change: (use: RecipeUse) => RecipeUse) => void;
}

/** @param path of the model in sight; null: the cells of the project */
export function useRecipe({ project, edit }: Pick<ViewProps, 'project' | 'edit'>, path: string | null): RecipeHandle {
  const [wanted, choose] = useViewValue('bake', 'recipe');
  const { recipes } = project.decisions;
  const uses = useMemo(
    () => recipes.filter((use) => (path === null ? use.cell !== null : isForModel(use, path))),
    [recipes, path],
  );
  const use = uses.find((one) => one.recipe.name === wanted) ?? uses[0] ?? null;
  const name = use?.recipe.name ?? null;
  const [trial, setTrial] = useState<Recipe | null>(null);
  const stored = use?.recipe ?? null;
  // What was tried is over once it is stored, taken back, or another recipe is in sight.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a change of what is stored alone
  useEffect(() => setTrial(null), [stored]);
  const change = useCallback<RecipeHandle['change']>(
    (label, apply, isTrial = false) => {
      if (name === null || !stored) return;
      if (isTrial) {
        setTrial((now) => apply(now?.name === name ? now : stored));
        return;
      }
      // On what is decided by then: other edits may be on their way. What was tried is said again by the last step of a drag.
      edit(label, (decisions) => withRecipe(decisions, name, apply));
    },
    [edit, name, stored],
  );
  return {
    uses,
    use,
    recipe: trial ?? stored,
    choose,
    change,
    changeLine: (line, apply, label, isTrial) => {
      change(`${label}: ${line}`.slice(0, 120), (recipe) => withLine(recipe, line, apply), isTrial);
    },
    changeUse: (label, apply) => {
      if (name !== null) edit(label, (decisions) => withUse(decisions, name, apply));
    },
  };
}
