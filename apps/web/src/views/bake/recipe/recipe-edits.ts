import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import type { Condition } from '@wembrel/core/decisions/recipe/condition';
import { Recipe, RecipeLine } from '@wembrel/core/decisions/recipe/recipe';
import { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { andAlso, freshName, newWhat } from './recipe-options.ts';

/** Changes of a project's recipes, as functions of what is decided. */

/** The decisions with one recipe changed; as they are where there is none of that name. */
export function withUse(
  decisions: MergeDecisions,
  name: string,
  change: (use: RecipeUse) => RecipeUse,
): MergeDecisions {
  return {
    ...decisions,
    recipes: decisions.recipes.map((use) => (use.recipe.name === name ? change(use) : use)),
  };
}

export const withRecipe = (
  decisions: MergeDecisions,
  name: string,
  change: (recipe: Recipe) => Recipe,
): MergeDecisions => withUse(decisions, name, (use) => ({ ...use, recipe: change(use.recipe) }));

/** One more recipe. @param model path of the one that it is for, or the cell @returns the decisions and the name that it got */
export function withNewRecipe(
  decisions: MergeDecisions,
  model: string | RecipeUse['cell'],
  from: Partial<Recipe> = {},
): { decisions: MergeDecisions; name: string } {
  const taken = decisions.recipes.map((use) => use.recipe.name);
  const name = freshName(from.name ?? 'Look', taken);
  const recipe = Recipe.parse({ recipe: 1, ...from, name });
  const on = typeof model === 'string' ? { models: [model] } : { cell: model };
  const use = RecipeUse.parse({ recipe, ...on, sheets: [] });
  return { decisions: { ...decisions, recipes: [...decisions.recipes, use] }, name };
}

const namesOfLines = (recipe: Recipe): string[] => recipe.lines.map((line) => line.name);

/** One more line, at a place. @returns the recipe and the name of the line */
export function withNewLine(
  recipe: Recipe,
  line: { name: string; what: unknown; where?: Condition | null },
  at = recipe.lines.length,
): { recipe: Recipe; name: string } {
  const name = freshName(line.name, namesOfLines(recipe));
  const made = RecipeLine.parse({ name, what: newWhat(line.what), where: line.where ?? null });
  return { recipe: { ...recipe, lines: recipe.lines.toSpliced(at, 0, made) }, name };
}

export function withLine(recipe: Recipe, name: string, change: (line: RecipeLine) => RecipeLine): Recipe {
  return { ...recipe, lines: recipe.lines.map((line) => (line.name === name ? change(line) : line)) };
}

export const withoutLines = (recipe: Recipe, names: ReadonlySet<string>): Recipe => ({
  ...recipe,
  lines: recipe.lines.filter((line) => !names.has(line.name)),
});

/** A line earlier or later by so many places. */
export function withMovedLine(recipe: Recipe, name: string, by: number): Recipe {
  const from = recipe.lines.findIndex((line) => line.name === name);
  const to = from + by;
  if (from < 0 || to < 0 || to >= recipe.lines.length) return recipe;
  const lines = recipe.lines.toSpliced(from, 1);
  return { ...recipe, lines: lines.toSpliced(to, 0, recipe.lines[from]) };
}

/** Several lines under one condition, which they share by a name. */
export function underOneCondition(
  recipe: Recipe,
  names: ReadonlySet<string>,
  condition: Condition,
  wanted: string,
): Recipe {
  const name = freshName(wanted, Object.keys(recipe.conditions));
  return {
    ...recipe,
    conditions: { ...recipe.conditions, [name]: condition },
    lines: recipe.lines.map((line) =>
      names.has(line.name) ? { ...line, where: andAlso(line.where, { use: name }) } : line,
    ),
  };
}

/** Which lines of a recipe are laid now. */
export type Shown =
  | { kind: 'all' }
  /** None: what is there before it. */
  | { kind: 'before' }
  | { kind: 'alone'; line: string }
  | { kind: 'without'; line: string }
  | { kind: 'up-to'; line: string };

/** The recipe with the lines off that are not shown. */
export function shownRecipe(recipe: Recipe, shown: Shown): Recipe {
  if (shown.kind === 'all') return recipe;
  const at = 'line' in shown ? recipe.lines.findIndex((line) => line.name === shown.line) : -1;
  if ('line' in shown && at < 0) return recipe;
  const hides = (i: number): boolean => {
    if (shown.kind === 'alone') return i !== at;
    if (shown.kind === 'without') return i === at;
    return i > at;
  };
  return {
    ...recipe,
    lines: recipe.lines.map((line, i) => ({
      ...line,
      // A line that is tried alone is laid even where it is off.
      off: hides(i) || (line.off && !(shown.kind === 'alone' && i === at)),
    })),
  };
}
