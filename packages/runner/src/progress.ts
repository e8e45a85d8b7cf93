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
  return (stage: Progress['stage'], within: number, doing: string): void => {
    const [a, b] = SPAN[stage];
    on?.({ stage, share: a + (b - a) * Math.min(1, Math.max(0, within)), doing });
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
