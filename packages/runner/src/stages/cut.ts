import { cutAtRepeats, TooManyPieces } from '@wembrel/core/cut/cut-repeats';
import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { InputError } from '@wembrel/core/errors';
import { slotsToCut } from '@wembrel/core/plan/cut-plan';
import type { JobScope } from '../pool/job-scope.ts';
import { rereadModel } from '../read/load.ts';
import type { ReadFiles, ReadModel } from './read.ts';

/** What was cut at repeats. */
export interface Cut {
  slots: number;
  /** Triangles more than before. */
  triangles: number;
}

/**
 * Cuts the slots that a plan says at the repeats of their texture, in memory: the documents change, and their models are read from them again.
 * @throws InputError when one would fall into too many pieces @throws Cancelled
 */
export function cutModels(
  read: ReadFiles,
  decisions: MergeDecisions,
  scope: JobScope,
): { models: ReadModel[]; cut: Cut } {
  const cut: Cut = { slots: 0, triangles: 0 };
  const slots = slotsToCut(
    read.models.map((model) => model.model),
    decisions,
    read.images.pictures,
  );
  const models = read.models.map((entry, m) => {
    if (slots[m].size === 0) return entry;
    scope.checkpoint();
    const { before, after } = sentenced(entry.model.path, () => cutAtRepeats(entry.model, slots[m]));
    cut.triangles += after - before;
    cut.slots += slots[m].size;
    return { ...entry, model: rereadModel(entry.model) };
  });
  return { models, cut };
}

function sentenced<T>(path: string, work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof TooManyPieces) throw new InputError(path, error.message);
    throw error;
  }
}
