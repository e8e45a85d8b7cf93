import { type SlotSurface, type SurfaceInput, slotSurface } from '@wembrel/core/survey/surface';
import { taskGroup } from '../pool/task.ts';

/** What worker threads do while models are surveyed. */
export const surfaceTasks = taskGroup('surface', {
  async surface(input: SurfaceInput): Promise<SlotSurface> {
    return slotSurface(input);
  },
});
