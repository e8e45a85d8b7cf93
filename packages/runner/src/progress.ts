import type { JobScope } from './pool/job-scope.ts';

/** Where a part of a job runs, and whom it tells how far it is. */
export interface PartOfJob {
  scope: JobScope;
  /** @param share 0 … 1 of the part */
  progress: (share: number, doing: string) => void;
}

/** A part within another: from one of its shares to the next. */
export const within = ({ scope, progress }: PartOfJob, from: number, to: number, doing?: string): PartOfJob => ({
  scope,
  progress: (share, inner) => progress(from + (to - from) * share, doing ?? inner),
});

/** A report of how far a job is. */
export interface Progress {
  stage: 'read' | 'survey' | 'plan' | 'layout' | 'bake' | 'compare' | 'handover';
  /** 0 … 1 over the whole job. */
  share: number;
  /** What it is doing, in a few words. */
  doing: string;
}

export type OnProgress = (progress: Progress) => void;

/** Where each stage of a merge begins and ends in the whole, measured on the demo. */
const SPAN: Record<Progress['stage'], [number, number]> = {
  read: [0, 0.1],
  survey: [0.1, 0.12],
  plan: [0.12, 0.13],
  layout: [0.13, 0.3],
  bake: [0.3, 0.6],
  handover: [0.6, 0.72],
  compare: [0.72, 1],
};

export function reporter(on: OnProgress | undefined) {
  return (stage: Progress['stage'], share: number, doing: string): void => {
    const [a, b] = SPAN[stage];
    on?.({ stage, share: a + (b - a) * Math.min(1, Math.max(0, share)), doing });
  };
}

/** Seconds by stage; each lap also stops the work when that is wanted. */
export function stopwatch(scope: { checkpoint(): void }): {
  seconds: Record<string, number>;
  lap: (stage: string) => void;
} {
  const seconds: Record<string, number> = {};
  let last = performance.now();
  return {
    seconds,
    lap(stage) {
      const now = performance.now();
      seconds[stage] = Number(((now - last) / 1000).toFixed(3));
      last = now;
      scope.checkpoint();
    },
  };
}
