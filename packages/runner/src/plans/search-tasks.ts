import { ENDLESS } from '@wembrel/core/layout/planned-searches';
import type { PackItem, PackOptions, PackResult } from '@wembrel/core/pack/items';
import { pack } from '@wembrel/core/pack/pack';
import { type CancelFlag, stopped } from '../pool/cancel-flag.ts';
import { taskGroup } from '../pool/task.ts';

/** A layout that was found while continued search. */
export interface SearchStep {
  /** Ms after which it was there. */
  ms: number;
  scale: number;
  rounds: number;
}

export const searchTasks = taskGroup('search', {
  /**
   * Packs for a time, ever more tightly. What a round had found that was not over yet does not count: only whole rounds find it again.
   * @returns when each layout was there that was better than the one before, and the last one
   */
  async search(input: {
    items: PackItem[];
    options: PackOptions;
    seconds: number;
    cancel: CancelFlag;
  }): Promise<{ steps: SearchStep[]; last: PackResult }> {
    const begun = performance.now();
    const passed = () => performance.now() - begun;
    const steps: SearchStep[] = [];
    let last: PackResult | null = null;
    const end = pack(input.items, {
      ...input.options,
      effort: ENDLESS,
      cancelled: () => passed() > input.seconds * 1000 || stopped(input.cancel),
      better: (result) => {
        last = result;
        steps.push({ ms: passed(), scale: result.scale, rounds: result.rounds });
      },
    });
    return { steps, last: last ?? end };
  },
});
