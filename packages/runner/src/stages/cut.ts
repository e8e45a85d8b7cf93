import { cutAtRepeats, TooManyPieces } from '@wembrel/core/cut/cut-repeats';
import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { InputError } from '@wembrel/core/errors';
import { slotsToCut } from '@wembrel/core/plan/cut-plan';
import type { JobScope } from '../pool/job-scope.ts';
import { rereadModel } from '../read/load.ts';
import type { ReadFiles } from './read.ts';

/** What was cut at repeats. */
export interface Cut {
  slots: number;
  /** Triangles more than before. */
  triangles: number;
}

/**
 * Cuts the slots that a plan says at the repeats of their texture, in memory; their models are read anew.
 * @throws InputError when one would fall into too many pieces @throws Cancelled
 */
export function cutModels(read: ReadFiles, d: MergeDecisions, scope: JobScope): Cut {
  const sum: Cut = { slots: 0, triangles: 0 };
  const cuts = slotsToCut(
    read.models.map((m) => m.model),
    d,
    read.images.pictures,
  );
  read.models.forEach((entry, m) => {
    if (cuts[m].size === 0) return;
    scope.checkpoint();
    try {
      const { before, after } = cutAtRepeats(entry.model, cuts[m]);
      sum.triangles += after - before;
    } catch (error) {
      if (error instanceof TooManyPieces) throw new InputError(entry.model.path, error.message);
      throw error;
    }
    sum.slots += cuts[m].size;
    entry.model = rereadModel(entry.model);
  });
  return sum;
}
