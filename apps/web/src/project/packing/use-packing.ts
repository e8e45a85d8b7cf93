import { readText } from '@wembrel/core/decisions/reads';
import type { PackingSearch } from '@wembrel/core/decisions/sheets';
import { type PlannedSearch, planSearches, withSearches } from '@wembrel/core/layout/planned-searches';
import { useEffect, useRef, useState } from 'react';
import type { PackedSheet } from '../../contract/plots.ts';
import type { MergeDecisions } from '../../contract/project.ts';
import { continueSearch, packAll, threads } from './pack-workers.ts';
import type { GatheredIslands } from './use-islands.ts';

export interface Packing {
  /** What the sheets were packed for, and what is asked for now. */
  key: string;
  wantedKey: string;
  sheets: PackedSheet[] | null;
  /** What there is to see of each sheet while all are packed for the first time. */
  early: readonly (PackedSheet | null)[];
  /** 0 … 1 while it packs, else null. */
  share: number | null;
  seconds: number;
  problem: string | null;
  /** In how many threads it keeps searching for tighter layouts, until stopped; 0: it does not. */
  searching: number;
  /** It kept searching until everything had the greatest size that it may have. */
  exhausted: boolean;
  /** @param first position of the sheet that gets the most threads */
  search: (first: number) => void;
  /** Ends the looking with the best so far. */
  stop: () => void;
}

type State = Pick<Packing, 'key' | 'sheets' | 'early' | 'share' | 'seconds' | 'problem'>;

const NOTHING: State = { key: '', sheets: null, early: [], share: null, seconds: 0, problem: null };

/** @param count of sheets */
const withEarly = (early: State['early'], count: number, index: number, sheet: PackedSheet): State['early'] =>
  Array.from({ length: count }, (_, i) => (i === index ? sheet : (early[i] ?? null)));

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
  const [state, setState] = useState(NOTHING);
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
    if (!islands || islands.index.sheets.length !== decisions.sheets.length) return;
    // What was found by continued search is what its seed and rounds find.
    if (done.current.key === key && done.current.islands === islands) return;
    setState((state) => ({ ...state, share: 0, problem: null }));
    return packAll(islands, decisions, {
      progress: (share) => setState((state) => ({ ...state, share })),
      better: (index, sheet, seconds) =>
        setState((state) => {
          if (state.sheets?.length === decisions.sheets.length)
            return { ...state, sheets: state.sheets.with(index, sheet), seconds };
          return { ...state, early: withEarly(state.early, decisions.sheets.length, index, sheet), seconds };
        }),
      // Never in the place of a layout.
      inRows: (index, sheet) =>
        setState((state) => {
          if (state.sheets?.length === decisions.sheets.length || state.early[index]) return state;
          return { ...state, early: withEarly(state.early, decisions.sheets.length, index, sheet) };
        }),
      done: (sheets, seconds) => setState({ key, sheets, early: [], share: null, seconds, problem: null }),
      failed: (problem) => setState((state) => ({ ...state, early: [], share: null, problem })),
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
      setState((state) => ({ ...state, key: now }));
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
        setState((state) => ({ ...state, sheets: [...best.current], seconds }));
      },
      failed: (problem) => setState((state) => ({ ...state, problem })),
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
