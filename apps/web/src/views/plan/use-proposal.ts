import type { Proposal } from '@wembrel/core/predict/propose/propose';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { MergeDecisions, SurveyView } from '../../contract/project.ts';
import { pictureEntries, planSlots } from '../../project/prediction.ts';
import type { ProposeAnswer, ProposeRequest } from '../../workers/propose.worker.ts';

export interface Asking {
  /** 0 … 1 while it looks, else null. */
  share: number | null;
  proposal: Proposal | null;
  problem: string | null;
}

const IDLE: Asking = { share: null, proposal: null, problem: null };

/** Asks for a proposal in a worker. */
export function useProposal(survey: SurveyView | null, decisions: MergeDecisions) {
  const [state, setState] = useState<Asking>(IDLE);
  const worker = useRef<Worker | null>(null);
  const stop = useCallback(() => {
    worker.current?.terminate();
    worker.current = null;
    setState(IDLE);
  }, []);
  useEffect(() => () => worker.current?.terminate(), []);
  const ask = useCallback(
    (sheets: number, keepSheets: boolean) => {
      worker.current?.terminate();
      const w = new Worker(new URL('../../workers/propose.worker.ts', import.meta.url), { type: 'module' });
      worker.current = w;
      setState({ ...IDLE, share: 0 });
      w.onmessage = ({ data }: MessageEvent<ProposeAnswer>) => {
        if (data.type === 'progress') setState((asking) => ({ ...asking, share: data.share }));
        else {
          w.terminate();
          setState(
            data.type === 'done'
              ? { share: null, proposal: data.proposal, problem: null }
              : { share: null, proposal: null, problem: data.message },
          );
        }
      };
      w.onerror = (event) => setState({ share: null, proposal: null, problem: event.message || 'the search failed' });
      w.postMessage({
        slots: planSlots(survey, decisions),
        decisions,
        pictures: survey ? pictureEntries(survey) : [],
        sheets,
        keepSheets,
      } satisfies ProposeRequest);
    },
    [survey, decisions],
  );
  return { ...state, ask, stop };
}
