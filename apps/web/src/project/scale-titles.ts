import type { MergeDecisions } from '@wembrel/core/decisions/decisions';

/** What the sizes of islands are called: in a list of choices, and as what was done. */
export const SCALES: Record<MergeDecisions['scale'], { title: string; done: string }> = {
  relative: { title: 'relative', done: 'Relative island sizes' },
  even: { title: 'even density', done: 'Even density' },
  detail: { title: 'by detail', done: 'Island sizes by detail' },
};
