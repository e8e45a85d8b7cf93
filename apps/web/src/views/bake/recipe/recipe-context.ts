import type { LookSource } from '@wembrel/core/decisions/recipe/look';
import type { MeasuredCondition } from '@wembrel/core/recipes/conditions/measure';
import type { MeasureHistogram } from '@wembrel/core/recipes/readings/histogram';
import { createContext, useContext } from 'react';

/** What the sentences of a recipe may name, in the project and on the model in sight. */
export interface RecipeNames {
  /** It is a cell: what only models have is not offered. */
  cell: boolean;
  slots: readonly string[];
  parts: readonly string[];
  groups: readonly string[];
  ids: readonly string[];
  /** Files of pictures, and names of conditions that lines share. */
  pictures: readonly string[];
  shared: readonly string[];
  /** Address of a small picture of a look; null until it is there. */
  slabOf: (look: LookSource) => string | null;
}

const NO_NAMES: RecipeNames = {
  cell: false,
  slots: [],
  parts: [],
  groups: [],
  ids: [],
  pictures: [],
  shared: [],
  slabOf: () => null,
};

export const RecipeNamesContext = createContext<RecipeNames>(NO_NAMES);

export const useNames = (): RecipeNames => useContext(RecipeNamesContext);

/** Sets a part of a line. @param label what is done, for undo @param trial it is being tried: nothing is stored yet */
export type SetPart<T> = (value: T, label: string, trial?: boolean) => void;

/** What the sentences may ask about the surface. */
export interface RecipeAsk {
  histogram: (condition: MeasuredCondition, signal: AbortSignal) => Promise<MeasureHistogram | null>;
}

export const RecipeAskContext = createContext<RecipeAsk>({ histogram: () => Promise.resolve(null) });

export const useAsk = (): RecipeAsk => useContext(RecipeAskContext);
