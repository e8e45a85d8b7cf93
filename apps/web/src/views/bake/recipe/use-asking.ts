import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import type { MeasuredCondition } from '@wembrel/core/recipes/conditions/measure';
import { useMemo } from 'react';
import type { LiveSubject } from '../../../contract/live-recipe.ts';
import { askLive } from './live-client.ts';
import type { RecipeAsk } from './recipe-context.ts';

/** px of the maps that histograms are counted on. */
const SIDE = 256;

/** What the sentences may ask about the surface in sight. */
export function useAsking(project: string, on: LiveSubject | null, recipe: Recipe | null): RecipeAsk {
  return useMemo(
    () => ({
      histogram: async (where: MeasuredCondition, signal: AbortSignal) => {
        if (!on || !recipe) return null;
        const question = { ask: 'histogram' as const, recipe, side: SIDE as 256, where };
        const { head } = await askLive<'histogram'>(project, on, question, signal);
        return head.histogram;
      },
    }),
    [project, on, recipe],
  );
}
