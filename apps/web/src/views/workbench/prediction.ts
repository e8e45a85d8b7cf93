import { type Prediction, predict } from '@wembrel/core/plan/predict';
import { useMemo } from 'react';
import type { ProjectView } from '../../contract/project.ts';

/** A prediction, and how long it took, ms. */
export interface Forecast extends Prediction {
  took: number;
}

/** What the present plan will cost, from the facts of the survey alone; made anew with every edit. */
export function usePrediction(project: ProjectView | undefined): Forecast | null {
  const survey = project?.survey;
  const decisions = project?.decisions;
  return useMemo(() => {
    if (!survey || !decisions) return null;
    const sizes = new Map(survey.pictures.map((p) => [p.key, p]));
    const begun = performance.now();
    const p = predict(survey.slots, decisions, (key) => sizes.get(key) ?? { width: 1, height: 1 });
    return { ...p, took: performance.now() - begun };
  }, [survey, decisions]);
}
