import type { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { useMemo, useState } from 'react';
import type { LiveSubject } from '../../../contract/live-recipe.ts';
import type { LiveMaps } from '../../../stage/live-sheet.ts';
import { ALONE, type Neighbours, SIDES } from './cell-neighbours.ts';
import { type Laying, useLaid } from './use-laid.ts';

export interface CellsAround {
  names: Neighbours<string | null>;
  choose: (side: keyof Neighbours<string>, name: string | null) => void;
  maps: Neighbours<LiveMaps | null>;
}

/** The cells that lie around one, by the names of their recipes, and what they look like. */
export function useNeighbours(
  project: string,
  on: LiveSubject | null,
  others: readonly RecipeUse[],
  laying: Laying,
): CellsAround {
  const [names, setNames] = useState<Neighbours<string | null>>(ALONE);
  const there = (name: string | null | undefined) => others.find((one) => one.recipe.name === name) ?? null;
  // As many as there are sides: each looks different at the most.
  const distinct = [...new Set(SIDES.flatMap((side) => there(names[side])?.recipe.name ?? []))];
  const recipe = (i: number) => there(distinct[i])?.recipe ?? null;
  const laid = [
    useLaid(project, on, recipe(0), laying),
    useLaid(project, on, recipe(1), laying),
    useLaid(project, on, recipe(2), laying),
    useLaid(project, on, recipe(3), laying),
  ];
  const maps = SIDES.map((side) => {
    const i = distinct.indexOf(names[side] ?? '');
    return i < 0 ? null : (laid[i].laid?.maps ?? null);
  });
  const [left, right, above, below] = maps;
  return {
    names,
    choose: (side, name) => setNames((now) => ({ ...now, [side]: name })),
    maps: useMemo(() => ({ left, right, above, below }), [left, right, above, below]),
  };
}
