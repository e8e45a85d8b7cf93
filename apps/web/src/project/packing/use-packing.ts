import { readText } from '@wembrel/core/decisions/reads';
import type { PackingSearch } from '@wembrel/core/decisions/sheets';
import { type PlannedSearch, planSearches, withSearches } from '@wembrel/core/layout/planned-searches';
import { useEffect, useReducer, useRef, useState } from 'react';
import type { PackedSheet } from '../../contract/plots.ts';
import type { MergeDecisions } from '../../contract/project.ts';
import { continueSearch, packAll, threads } from './pack-workers.ts';
import { NOTHING_PACKED, nextPacking, type PackingState } from './packing-state.ts';
import type { GatheredIslands } from './use-islands.ts';

export interface Packing extends PackingState {
  /** What is asked for now. */
  wantedKey: string;
  /** In how many threads it keeps searching for tighter layouts, until stopped; 0: it does not. */
  searching: number;
  /** It kept searching until everything had the greatest size that it may have. */
  exhausted: boolean;
  /** @param first position of the sheet that gets the most threads */
  search: (first: number) => void;
  /** Ends the looking with the best so far. */
  stop: () => void;
}

const keyOf = (decisions: MergeDecisions) => readText('packing', decisions);

/** What the threads look for, and what the sheets were packed for then. */
interface Look {
  tasks: PlannedSearch[];
  key: string;
}

/**
 * Packs in a worker whenever what packing reads has changed; a run that is overtaken is ended. Better layouts show as they are found. Continued search
 * takes as many workers as there are cores, each with a seed of its own.
 * @param record keeps how the tightest layouts of sheets, by position, are found again
 */
export function usePacking(
  islands: GatheredIslands | null,
  decisions: MergeDecisions,
  record: (found: ReadonlyMap<number, PackingSearch>) => void = () => {},
): Packing {
  const [state, tell] = useReducer(nextPacking, NOTHING_PACKED);
  const [look, setLook] = useState<Look | null>(null);
  const [exhausted, setExhausted] = useState('');
  const key = keyOf(decisions);
  const done = useRef<{ key: string; islands: GatheredIslands | null }>({ key: '', islands: null });
  /** The tightest of each sheet while it keeps searching, and how those were found that are new. */
  const best = useRef<PackedSheet[]>([]);
  const found = useRef(new Map<number, PackingSearch>());
  const used = useRef(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key holds what packing reads of the decisions
  useEffect(() => {
    const count = decisions.sheets.length;
    if (!islands || islands.index.sheets.length !== count) return;
    // What was found by continued search is what its seed and rounds find.
    if (done.current.key === key && done.current.islands === islands) return;
    tell({ type: 'begun' });
    return packAll(islands, decisions, {
      progress: (share) => tell({ type: 'progress', share }),
      better: (index, sheet, seconds) => tell({ type: 'better', count, index, sheet, seconds }),
      inRows: (index, sheet) => tell({ type: 'inRows', count, index, sheet }),
      done: (sheets, seconds) => tell({ type: 'done', key, sheets, seconds }),
      failed: (problem) => tell({ type: 'failed', problem }),
    });
  }, [islands, key]);

  const finish = (byItself: boolean) => {
    setLook(null);
    const better = found.current;
    found.current = new Map();
    const sheets = withSearches(decisions.sheets, better);
    if (byItself) setExhausted(keyOf({ ...decisions, sheets }));
    if (better.size === 0) return;
    // At even density the sheet with least room holds back the others: then all are packed again.
    if (decisions.scale !== 'even' || sheets.length === 1) {
      const now = keyOf({ ...decisions, sheets });
      done.current = { key: now, islands };
      tell({ type: 'noted', key: now });
    }
    record(better);
  };
  const finishing = useRef(finish);
  finishing.current = finish;

  // biome-ignore lint/correctness/useExhaustiveDependencies: the key holds what packing reads of the decisions
  useEffect(() => {
    if (!look || !islands) return;
    // Another change has come: what is looked for is no longer asked for.
    if (look.key !== key) return setLook(null);
    return continueSearch(islands, decisions, look.tasks, {
      better: (index, sheet, seconds) => {
        if (best.current[index].scale >= sheet.scale) return;
        best.current[index] = sheet;
        found.current.set(index, sheet.search);
        tell({ type: 'found', sheets: [...best.current], seconds });
      },
      failed: (problem) => tell({ type: 'searchFailed', problem }),
      done: (whole) => finishing.current(whole),
    });
  }, [look, islands, key]);

  return {
    ...state,
    wantedKey: key,
    searching: look?.tasks.length ?? 0,
    search: (first) => {
      if (!state.sheets || state.key !== key) return;
      best.current = [...state.sheets];
      found.current = new Map();
      const islands = state.sheets.map((sheet) => sheet.plots.length);
      const tasks = planSearches(decisions.sheets, islands, {
        seed: decisions.seed,
        threads: threads(),
        first,
        used: used.current,
      });
      used.current = Math.max(used.current, ...tasks.map((task) => task.seed));
      if (tasks.length > 0) setLook({ tasks, key });
    },
    exhausted: exhausted === key,
    stop: () => finish(false),
  };
}
