import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import type { PlanSlot } from '@wembrel/core/predict/plan-slot';
import type { PictureSize } from '@wembrel/core/predict/predict';
import { type Proposal, propose } from '@wembrel/core/predict/propose/propose';

export interface ProposeRequest {
  slots: PlanSlot[];
  decisions: MergeDecisions;
  pictures: [key: string, size: PictureSize][];
  sheets: number;
  keepSheets: boolean;
  /** Plans to be scored at most. */
  effort?: number;
}

export type ProposeAnswer =
  | { type: 'progress'; share: number }
  | { type: 'done'; proposal: Proposal }
  | { type: 'failed'; message: string };

/** Looks for a plan; ended from outside when it is no longer wanted. */
self.onmessage = ({ data }: MessageEvent<ProposeRequest>) => {
  const answer = (proposeAnswer: ProposeAnswer) => self.postMessage(proposeAnswer);
  const pictures = new Map(data.pictures);
  let told = 0;
  try {
    const proposal = propose(data.slots, data.decisions, (key) => pictures.get(key) ?? { width: 1, height: 1 }, {
      sheets: data.sheets,
      keepSheets: data.keepSheets,
      effort: data.effort,
      progress: (share) => {
        if (share - told < 0.01) return;
        told = share;
        answer({ type: 'progress', share });
      },
    });
    answer({ type: 'done', proposal });
  } catch (error) {
    answer({ type: 'failed', message: error instanceof Error ? error.message : String(error) });
  }
};
