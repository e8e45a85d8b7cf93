import type { PackedFigures } from '@wembrel/core/layout/coverage';
import type { PlanSlot } from '@wembrel/core/predict/plan-slot';
import { plannedSlots, withPlannedRoutes } from '@wembrel/core/predict/planned';
import { type PictureSize, type PictureSizes, type Prediction, predict } from '@wembrel/core/predict/predict';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { MergeDecisions, ProjectView, SurveyView } from '../contract/project.ts';
import type { PredictAnswer, PredictRequest } from '../workers/predict.worker.ts';

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
  const sizes = new Map(survey?.pictures.map((picture) => [picture.key, picture]));
  return (key) => sizes.get(key) ?? NO_PICTURE;
}

/** What predictions read of the survey's pictures, by their keys, for a worker. */
export const pictureEntries = (survey: SurveyView): [key: string, size: PictureSize][] =>
  survey.pictures.map(({ key, width, height, flat, usefulSide }) => [key, { width, height, flat, usefulSide }]);

/** Everything that a plan deals out: slots of the survey, then planned surfaces that have none yet. */
export function planSlots(survey: SurveyView | null, decisions: Pick<MergeDecisions, 'planned'>): PlanSlot[] {
  const open = plannedSlots(decisions.planned, survey?.models.length ?? 0);
  return survey ? (open.length > 0 ? [...survey.slots, ...open] : survey.slots) : open;
}

export function forecastOf(
  survey: SurveyView | null,
  decisions: MergeDecisions,
  packed: readonly (PackedFigures | null)[] = [],
): Forecast {
  const begun = performance.now();
  const slots = planSlots(survey, decisions);
  const prediction = predict(slots, withPlannedRoutes(decisions, decisions.planned), pictureSizes(survey), packed);
  return { ...prediction, planSlots: slots, packed: packed.length > 0, took: performance.now() - begun };
}

/** Plans of more slots than this are predicted in a worker, so that the page answers while they are. */
const IN_PAGE = 150;

/** A prediction and what it is of, so that nobody holds it against other decisions. */
interface Predicted {
  survey: SurveyView | null;
  decisions: MergeDecisions;
  forecast: Forecast;
}

/**
 * What the present plan will cost, from the facts of the survey alone; made again with every edit. For large plans the project is shown as it
 * was for the moment that a worker takes, so that plan and prediction always agree.
 */
export function usePrediction(project: ProjectView | undefined): {
  project: ProjectView | undefined;
  /** Null when there is nothing to plan. */
  forecast: Forecast | null;
} {
  const survey = project?.survey ?? null;
  const decisions = project?.decisions;
  const some = decisions !== undefined && (survey !== null || decisions.planned.length > 0);
  const large = some && (survey?.slots.length ?? 0) + decisions.planned.length > IN_PAGE;
  const inPage = useMemo(
    () => (some && !large && decisions ? forecastOf(survey, decisions) : null),
    [some, large, survey, decisions],
  );
  const predicted = useWorkerPrediction(large ? survey : null, large ? decisions : undefined);
  if (!project || !large) return { project, forecast: inPage };
  if (!predicted) return { project, forecast: null };
  const { forecast } = predicted;
  const same = predicted.survey === survey && predicted.decisions === decisions;
  return {
    project: same ? project : { ...project, survey: predicted.survey, decisions: predicted.decisions },
    forecast,
  };
}

function useWorkerPrediction(survey: SurveyView | null, decisions: MergeDecisions | undefined): Predicted | null {
  const [state, setState] = useState<Predicted | null>(null);
  const worker = useRef<{ w: Worker; survey: SurveyView | null } | null>(null);
  const waiting = useRef(new Map<number, { survey: SurveyView; decisions: MergeDecisions }>());
  const count = useRef(0);
  useEffect(
    () => () => {
      worker.current?.w.terminate();
      worker.current = null;
    },
    [],
  );
  useEffect(() => {
    if (!survey || !decisions) return;
    if (!worker.current) {
      const w = new Worker(new URL('../workers/predict.worker.ts', import.meta.url), { type: 'module' });
      w.onmessage = ({ data }: MessageEvent<PredictAnswer>) => {
        const asked = waiting.current.get(data.id);
        if (!asked) return;
        for (const id of waiting.current.keys()) if (id <= data.id) waiting.current.delete(id);
        const forecast: Forecast = {
          ...data.prediction,
          took: data.took,
          packed: false,
          planSlots: planSlots(asked.survey, asked.decisions),
        };
        setState({ ...asked, forecast });
      };
      worker.current = { w, survey: null };
    }
    const id = ++count.current;
    waiting.current.set(id, { survey, decisions });
    const request: PredictRequest = { id, decisions };
    if (worker.current.survey !== survey) {
      const pictures = pictureEntries(survey);
      request.facts = { slots: survey.slots, models: survey.models.length, pictures };
      worker.current.survey = survey;
    }
    worker.current.w.postMessage(request);
  }, [survey, decisions]);
  return state;
}
