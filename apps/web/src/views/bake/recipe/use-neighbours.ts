import type { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { useMemo, useState } from 'react';
import type { LiveSubject } from '../../../contract/live-recipe.ts';
import type { LiveMaps } from '../../../stage/live-sheet.ts';
import { ALONE, type Neighbours } from './cell-neighbours.ts';
import { type LaidState, type Laying, useLaid } from './use-laid.ts';

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
  const mapsOf = (side: keyof Neighbours<string>, state: LaidState) =>
    there(names[side]) ? (state.laid?.maps ?? null) : null;
  const recipe = (side: keyof Neighbours<string>) => there(names[side])?.recipe ?? null;
  const left = mapsOf('left', useLaid(project, on, recipe('left'), laying));
  const right = mapsOf('right', useLaid(project, on, recipe('right'), laying));
  const above = mapsOf('above', useLaid(project, on, recipe('above'), laying));
  const below = mapsOf('below', useLaid(project, on, recipe('below'), laying));
  return {
    names,
    choose: (side, name) => setNames((now) => ({ ...now, [side]: name })),
    maps: useMemo(() => ({ left, right, above, below }), [left, right, above, below]),
  };
}
