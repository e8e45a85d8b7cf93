import { canonicalJson } from '../canonical-json.ts';
import type { Condition } from '../decisions/recipe/condition.ts';
import type { Recipe } from '../decisions/recipe/recipe.ts';
import { lineConditions } from './inputs/needs.ts';

/** What stands for the contents of a file that a recipe names: its hash, or any text that changes with it. */
export type PictureKeys = (name: string) => string;

/**
 * For each line all that its result depends on, besides the lines before it: what it says, with shared conditions written out, and the contents of the pictures that it names. Its name does
 * not count.
 */
export function lineKeys(recipe: Recipe, lines: readonly number[], pictures: PictureKeys): string[] {
  return lines.map((number) => {
    const { what, where, how } = recipe.lines[number];
    const named = lineConditions(recipe, recipe.lines[number]).flatMap((single) =>
      single.of === 'mask' || single.of === 'id' ? (single.picture ?? []) : [],
    );
    if ('look' in what && what.look.from === 'files') named.push(what.look.names);
    return canonicalJson({ what, how, where: where && spelled(recipe, where), pictures: named.map(pictures) });
  });
}

/** A condition with those that it shares with others in their places. */
function spelled(recipe: Recipe, condition: Condition): Condition {
  if ('use' in condition) return spelled(recipe, recipe.conditions[condition.use]);
  if ('not' in condition) return { not: spelled(recipe, condition.not) };
  if ('all' in condition) return { ...condition, all: condition.all.map((one) => spelled(recipe, one)) };
  if ('any' in condition) return { any: condition.any.map((one) => spelled(recipe, one)) };
  return condition;
}

/** The first line whose result may differ; as many as there are lines when none does. */
export function firstChanged(before: readonly string[], after: readonly string[]): number {
  const at = after.findIndex((key, i) => key !== before[i]);
  return at < 0 ? after.length : at;
}
