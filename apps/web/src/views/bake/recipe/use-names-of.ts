import { PLANNED_PICTURE } from '@wembrel/core/decisions/planned-surface';
import type { LookSource } from '@wembrel/core/decisions/recipe/look';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { useMemo } from 'react';
import type { ProjectView } from '../../../contract/project.ts';
import type { RecipeNames } from './recipe-context.ts';

const PICTURES = /\.(png|jpe?g|webp|tga|tiff?|exr|dds|ktx2?)$/i;
const NONE: Recipe['conditions'] = {};

/** What may be named in the sentences of a recipe. @param model null: it is a cell @param ids that were baked */
export function useNamesOf(
  { survey, decisions, sources }: ProjectView,
  model: number | null,
  recipe: Recipe | null,
  ids: readonly { name: string | null }[],
  slabOf: (look: LookSource) => string | null,
): RecipeNames {
  const shared = recipe?.conditions ?? NONE;
  return useMemo(() => {
    const unique = (list: readonly string[]) => [...new Set(list)].sort();
    return {
      cell: model === null,
      slots: unique(survey?.slots.flatMap((slot) => (slot.model === model ? [slot.name] : [])) ?? []),
      parts: unique(survey?.models[model ?? -1]?.parts.map(({ name }) => name) ?? []),
      groups: decisions.faces.groups.map(({ name }) => name),
      ids: unique(ids.flatMap(({ name }) => name ?? [])),
      pictures: [
        ...sources.map(({ path }) => path).filter((path) => PICTURES.test(path)),
        ...decisions.planned.flatMap((one) => (one.picture && one.linked ? [`${PLANNED_PICTURE}${one.linked}`] : [])),
      ],
      shared: Object.keys(shared),
      slabOf,
    };
  }, [survey, decisions.faces, decisions.planned, sources, model, ids, slabOf, shared]);
}
