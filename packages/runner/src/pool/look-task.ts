import { type PackItem, type PackOptions, pack } from '@wembrel/core/pack/pack';
import { type CancelFlag, stopped } from './hold.ts';

/** A layout that was found while looking on. */
export interface LookStep {
  /** Ms after which it was there. */
  ms: number;
  scale: number;
  rounds: number;
}

/** Rounds that nobody waits for. */
const ENDLESS = 100_000;

export const lookTasks = {
  /** Packs for a time, ever more tightly. @returns every layout that was better than the one before */
  async look(m: { items: PackItem[]; options: PackOptions; seconds: number; cancel: CancelFlag }): Promise<LookStep[]> {
    const begun = performance.now();
    const steps: LookStep[] = [];
    const note = ({ scale, rounds }: { scale: number; rounds: number }) => {
      if (scale > (steps.at(-1)?.scale ?? 0)) steps.push({ ms: performance.now() - begun, scale, rounds });
    };
    const last = pack(m.items, {
      ...m.options,
      effort: ENDLESS,
      cancelled: () => performance.now() - begun > m.seconds * 1000 || stopped(m.cancel),
      better: note,
    });
    note(last);
    return steps;
  },
};
