import { plannedSlots, withPlannedRoutes } from '@wembrel/core/plan/planned';
import {
  type PackedFigures,
  type PictureSizes,
  type PlanSlot,
  type Prediction,
  predict,
} from '@wembrel/core/plan/predict';
import { useMemo } from 'react';
import type { MergeDecisions, ProjectView, SurveyView } from '../../contract/project.ts';

/** A prediction, what it is of, and how long it took, ms. */
export interface Forecast extends Prediction {
  took: number;
  /** Slots of the survey, then planned surfaces that have none yet. */
  planSlots: PlanSlot[];
  /** Coverage and density come of packing, not of an estimate. */
  packed: boolean;
}

const NO_PICTURE = { width: 1, height: 1 };

/** Sizes of the survey's pictures by their keys. */
export function pictureSizes(survey: SurveyView | null): PictureSizes {
  const sizes = new Map(survey?.pictures.map((p) => [p.key, p]));
  return (key) => sizes.get(key) ?? NO_PICTURE;
}

/** Everything that a plan deals out: slots of the survey, then planned surfaces that have none yet. */
export function planSlots(survey: SurveyView | null, d: Pick<MergeDecisions, 'planned'>): PlanSlot[] {
  const open = plannedSlots(d.planned, survey?.models.length ?? 0);
  return survey ? (open.length > 0 ? [...survey.slots, ...open] : survey.slots) : open;
}

export function forecastOf(
  survey: SurveyView | null,
  d: MergeDecisions,
  packed: readonly (PackedFigures | null)[] = [],
): Forecast {
  const begun = performance.now();
  const slots = planSlots(survey, d);
  const p = predict(slots, withPlannedRoutes(d, d.planned), pictureSizes(survey), packed);
  return { ...p, planSlots: slots, packed: packed.length > 0, took: performance.now() - begun };
}

/** What the present plan will cost, from the facts of the survey alone; made anew with every edit. Null when there is nothing to plan. */
export function usePrediction(project: ProjectView | undefined): Forecast | null {
  const survey = project?.survey ?? null;
  const decisions = project?.decisions;
  return useMemo(() => {
    if (!decisions || (!survey && decisions.planned.length === 0)) return null;
    return forecastOf(survey, decisions);
  }, [survey, decisions]);
}
