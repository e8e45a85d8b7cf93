import type { PlannedSearch } from '@wembrel/core/layout/planned-searches';
import type { PackAnswer, PackedSheet, PackRequest } from '../../contract/plots.ts';
import type { MergeDecisions } from '../../contract/project.ts';
import type { GatheredIslands } from './use-islands.ts';

/** What is reported while sheets are packed. */
interface PackingEvents {
  /** @param seconds since it began */
  better: (index: number, sheet: PackedSheet, seconds: number) => void;
  failed: (message: string) => void;
}

/** Workers at one time: a core is left for the page. */
export const threads = (): number => Math.max(1, Math.min(8, (navigator.hardwareConcurrency || 2) - 1));

/** A worker and what it answers; a fault of its own is an answer too. */
function worker(answered: (a: PackAnswer, w: Worker) => void): Worker {
  const w = new Worker(new URL('../../workers/pack.worker.ts', import.meta.url), { type: 'module' });
  w.onmessage = ({ data }: MessageEvent<PackAnswer>) => answered(data, w);
  w.onerror = (event) => answered({ id: 1, type: 'failed', message: event.message || 'packing failed' }, w);
  return w;
}

/**
 * Packs all sheets, several at a time; at even density all in one worker, since there the sheet with least room holds back the others.
 * @returns what ends it
 */
export function packAll(
  { index, shapes }: GatheredIslands,
  decisions: MergeDecisions,
  on: PackingEvents & {
    progress: (share: number) => void;
    /** Islands of a sheet in rows, before they are packed. */
    inRows: (index: number, sheet: PackedSheet) => void;
    done: (sheets: PackedSheet[], seconds: number) => void;
  },
): () => void {
  const begun = performance.now();
  const seconds = () => (performance.now() - begun) / 1000;
  const count = decisions.sheets.length;
  const together = decisions.scale === 'even' || count === 1;
  // Those with most islands take longest.
  const queue = together
    ? [undefined]
    : [...decisions.sheets.keys()].sort((a, b) => index.sheets[b].length - index.sheets[a].length || a - b);
  const shares = new Float64Array(together ? 1 : count);
  const sheets: PackedSheet[] = [];
  let left = queue.length;
  const workers: Worker[] = [];
  const end = () => {
    for (const worker of workers) worker.terminate();
  };
  /** Gives a worker its next sheet. @returns which */
  const begin = (worker: Worker): number => {
    const only = queue.shift();
    worker.postMessage({ id: 1, index, shapes, decisions, only } satisfies PackRequest);
    return only ?? 0;
  };
  for (let k = Math.min(threads(), queue.length); k > 0; k--) {
    let at = 0;
    const made = worker((packAnswer, worker) => {
      if (packAnswer.type === 'progress') {
        shares[at] = packAnswer.share;
        on.progress(shares.reduce((sum, v) => sum + v, 0) / shares.length);
      } else if (packAnswer.type === 'inRows') on.inRows(packAnswer.index, packAnswer.sheet);
      else if (packAnswer.type === 'better') on.better(packAnswer.index, packAnswer.sheet, seconds());
      else if (packAnswer.type === 'failed') {
        end();
        on.failed(packAnswer.message);
      } else {
        if (together) sheets.push(...packAnswer.sheets);
        else sheets[at] = packAnswer.sheets[0];
        shares[at] = 1;
        left--;
        if (queue.length > 0) at = begin(worker);
        else worker.terminate();
        if (left === 0) on.done(sheets, seconds());
      }
    });
    workers.push(made);
    at = begin(made);
  }
  return end;
}

/**
 * Keeps searching for tighter layouts until ended, or until all have the greatest size that they may have (`whole`; not where a worker failed).
 * @returns what ends it
 */
export function continueSearch(
  { index, shapes }: GatheredIslands,
  decisions: MergeDecisions,
  tasks: readonly PlannedSearch[],
  on: PackingEvents & { done: (whole: boolean) => void },
): () => void {
  let open = tasks.length;
  let whole = true;
  const workers = tasks.map((look) => {
    const made = worker((packAnswer, worker) => {
      if (packAnswer.type === 'better') on.better(packAnswer.index, packAnswer.sheet, packAnswer.seconds);
      if (packAnswer.type === 'failed') {
        whole = false;
        on.failed(packAnswer.message);
      }
      if (packAnswer.type !== 'failed' && packAnswer.type !== 'done') return;
      worker.terminate();
      open--;
      if (open === 0) on.done(whole);
    });
    made.postMessage({ id: 1, index, shapes, decisions, look } satisfies PackRequest);
    return made;
  });
  return () => {
    for (const worker of workers) worker.terminate();
  };
}
