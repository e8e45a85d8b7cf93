import { type Offer, offerOf } from '@wembrel/core/predict/offer';
import type { Proposal } from '@wembrel/core/predict/propose/propose';
import { useEffect, useMemo, useState } from 'react';
import type { ProjectView } from '../../contract/project.ts';
import { pictureEntries, pictureSizes, planSlots } from '../../project/prediction.ts';
import type { ProposeAnswer, ProposeRequest } from '../../workers/propose.worker.ts';

/** ms without a change before a proposal is looked for. */
const QUIET = 700;

/** Plans that are tried for it: what a bill says need not be the last percent. */
const EFFORT = 600;

/** What a proposal was made for. */
interface Proposed {
  survey: ProjectView['survey'];
  decisions: ProjectView['decisions'];
  proposal: Proposal | null;
}

/**
 * What the project could gain beyond its plan; looked for in a worker while nothing else is done.
 * @param idle no job runs
 */
export function useOffer({ survey, decisions }: ProjectView, idle: boolean): Offer | null {
  const [proposed, setProposed] = useState<Proposed | null>(null);
  const fresh = proposed?.survey === survey && proposed.decisions === decisions;
  useEffect(() => {
    if (!survey || !idle || fresh || decisions.keepAll) return;
    let worker: Worker | null = null;
    const timer = setTimeout(() => {
      worker = new Worker(new URL('../../workers/propose.worker.ts', import.meta.url), { type: 'module' });
      worker.onmessage = ({ data }: MessageEvent<ProposeAnswer>) => {
        if (data.type === 'progress') return;
        worker?.terminate();
        setProposed({ survey, decisions, proposal: data.type === 'done' ? data.proposal : null });
      };
      worker.onerror = () => setProposed({ survey, decisions, proposal: null });
      worker.postMessage({
        slots: planSlots(survey, decisions),
        decisions,
        pictures: pictureEntries(survey),
        sheets: 4,
        keepSheets: false,
        effort: EFFORT,
      } satisfies ProposeRequest);
    }, QUIET);
    return () => {
      clearTimeout(timer);
      worker?.terminate();
    };
  }, [survey, decisions, idle, fresh]);
  const proposal = fresh ? proposed.proposal : null;
  return useMemo(
    () => (survey && fresh ? offerOf(planSlots(survey, decisions), decisions, pictureSizes(survey), proposal) : null),
    [survey, decisions, proposal, fresh],
  );
}
