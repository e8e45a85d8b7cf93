import { fitsPattern } from '@wembrel/core/decisions/patterns';
import { conditionLeaves } from '@wembrel/core/decisions/recipe/condition';
import type { Recipe, RecipeLine } from '@wembrel/core/decisions/recipe/recipe';
import { isForModel, type RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import type { SurveyView } from '../../../contract/project.ts';

/** What kinds of things lines name, and what a model has of each. */
type Named = Readonly<Record<'slot' | 'part', readonly string[]>>;

/** What a recipe would find on a model. */
export interface ModelMatch {
  path: string;
  /** The recipe is for it. */
  meant: boolean;
  /** Slots and parts that its lines name. */
  found: { kind: keyof Named; name: string }[];
  /** What its lines name and the model does not have. */
  missing: { kind: keyof Named; pattern: string; line: string }[];
}

/** What the lines of a recipe name, by pattern; what fits anything is no name. */
function namedBy(recipe: Recipe): { kind: keyof Named; pattern: string; line: string }[] {
  const leavesOf = (line: RecipeLine) => {
    if (!line.where) return [];
    const own = conditionLeaves(line.where);
    return [...own.singles, ...own.uses.flatMap((name) => conditionLeaves(recipe.conditions[name]).singles)];
  };
  return recipe.lines
    .filter((line) => !line.off)
    .flatMap((line) =>
      leavesOf(line).flatMap((leaf) =>
        leaf.of === 'slot' || leaf.of === 'part'
          ? leaf.names.flatMap((pattern) =>
              pattern === '*' ? [] : [{ kind: leaf.of as keyof Named, pattern, line: line.name }],
            )
          : [],
      ),
    );
}

/** For each model of the project whether a recipe is for it, and what of what its lines name the model has. */
export function recipeMatches(use: RecipeUse, survey: Pick<SurveyView, 'models' | 'slots'>): ModelMatch[] {
  const named = namedBy(use.recipe);
  return survey.models.map(({ path, parts }, model) => {
    const has: Named = {
      slot: survey.slots.flatMap((slot) => (slot.model === model ? [slot.name] : [])),
      part: parts.map(({ name }) => name),
    };
    const found = new Map<string, ModelMatch['found'][number]>();
    const missing: ModelMatch['missing'] = [];
    for (const one of named) {
      const fitting = has[one.kind].filter((name) => fitsPattern(name, one.pattern));
      for (const name of fitting) found.set(`${one.kind} ${name}`, { kind: one.kind, name });
      if (fitting.length === 0) missing.push(one);
    }
    return { path, meant: isForModel(use, path), found: [...found.values()], missing };
  });
}
