import type { PackingSearch } from '@wembrel/core/plan/sheets';
import { type LookTask, lookTasks } from '@wembrel/core/uv/look-on';
import { useEffect, useRef, useState } from 'react';
import type { PackAnswer, PackedSheet, PackRequest } from '../../contract/plots.ts';
import type { MergeDecisions } from '../../contract/project.ts';
import type { GatheredIslands } from './use-islands.ts';

export interface Packing {
  /** What the sheets were packed for, and what is asked for now. */
  key: string;
  wantedKey: string;
  sheets: PackedSheet[] | null;
  /** 0 … 1 while it packs, else null. */
  share: number | null;
  seconds: number;
  problem: string | null;
  /** In how many threads it looks on for tighter layouts, until told to stop; 0: it does not. */
  looking: number;
  /** It looked on until everything had the greatest size that it may have. */
  exhausted: boolean;
  /** @param first position of the sheet that gets the most threads */
  look: (first: number) => void;
  /** Ends the looking with the best so far. */
  stop: () => void;
}

type State = Pick<Packing, 'key' | 'sheets' | 'share' | 'seconds' | 'problem'>;

const keyOf = (d: MergeDecisions) => JSON.stringify([d.sheets, d.rotate, d.scale, d.snap, d.effort, d.seed]);

/** Threads that look on: one core is left for the page. */
const threads = (): number => Math.max(1, Math.min(8, (navigator.hardwareConcurrency || 2) - 1));

/** What the threads look for, and what the sheets were packed for then. */
interface Look {
  tasks: LookTask[];
  key: string;
}

/**
 * Packs in a worker whenever what packing reads has changed; a run that is overtaken is ended. Better layouts show as they are found. Looking on
 * takes as many workers as there are cores, each with a seed of its own.
 * @param record keeps how the tightest layouts of sheets, by position, are found again
 */
export function usePacking(
  islands: GatheredIslands | null,
  decisions: MergeDecisions,
  record: (found: ReadonlyMap<number, PackingSearch>) => void = () => {},
): Packing {
  const [state, setState] = useState<State>({ key: '', sheets: null, share: null, seconds: 0, problem: null });
  const [look, setLook] = useState<Look | null>(null);
  const [exhausted, setExhausted] = useState('');
  const key = keyOf(decisions);
  const done = useRef<{ key: string; islands: GatheredIslands | null }>({ key: '', islands: null });
  /** The tightest of each sheet while it looks on, and how those were found that are new. */
  const best = useRef<PackedSheet[]>([]);
  const found = useRef(new Map<number, PackingSearch>());
  const used = useRef(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key holds what packing reads of the decisions
  useEffect(() => {
    if (!islands || islands.index.sheets.length !== decisions.sheets.length) return;
    // What was found by looking on is what its seed and rounds find.
    if (done.current.key === key && done.current.islands === islands) return;
    const worker = new Worker(new URL('../../workers/pack.worker.ts', import.meta.url), { type: 'module' });
    setState((s) => ({ ...s, share: 0, problem: null }));
    worker.onmessage = ({ data }: MessageEvent<PackAnswer>) => {
      if (data.type === 'progress') setState((s) => ({ ...s, share: data.share }));
      else if (data.type === 'better')
        setState((s) => {
          if (!s.sheets || s.sheets.length !== decisions.sheets.length) return s;
          return { ...s, sheets: s.sheets.with(data.index, data.sheet), seconds: data.seconds };
        });
      else {
        worker.terminate();
        setState((s) =>
          data.type === 'done'
            ? { key, sheets: data.sheets, share: null, seconds: data.seconds, problem: null }
            : { ...s, share: null, problem: data.message },
        );
      }
    };
    worker.onerror = (e) => setState((s) => ({ ...s, share: null, problem: e.message || 'packing failed' }));
    worker.postMessage({ id: 1, index: islands.index, shapes: islands.shapes, decisions } satisfies PackRequest);
    return () => worker.terminate();
  }, [islands, key]);

  const finish = (byItself: boolean) => {
    setLook(null);
    const better = found.current;
    found.current = new Map();
    const sheets = decisions.sheets.map((s, i) => ({ ...s, search: better.get(i) ?? s.search }));
    if (byItself) setExhausted(keyOf({ ...decisions, sheets }));
    if (better.size === 0) return;
    // At even density the sheet with least room holds back the others: then all are packed anew.
    if (decisions.scale !== 'even' || sheets.length === 1) {
      const now = keyOf({ ...decisions, sheets });
      done.current = { key: now, islands };
      setState((s) => ({ ...s, key: now }));
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
    let open = look.tasks.length;
    const workers = look.tasks.map((task) => {
      const worker = new Worker(new URL('../../workers/pack.worker.ts', import.meta.url), { type: 'module' });
      const close = (problem: string | null) => {
        worker.terminate();
        open--;
        if (problem) setState((s) => ({ ...s, problem }));
        if (open === 0) finishing.current(problem === null);
      };
      worker.onmessage = ({ data }: MessageEvent<PackAnswer>) => {
        if (data.type === 'better') {
          if (best.current[data.index].scale >= data.sheet.scale) return;
          best.current[data.index] = data.sheet;
          found.current.set(data.index, data.sheet.search);
          setState((s) => ({ ...s, sheets: [...best.current], seconds: data.seconds }));
        } else if (data.type === 'done') close(null);
        else if (data.type === 'failed') close(data.message);
      };
      worker.onerror = (e) => close(e.message || 'packing failed');
      return { worker, task };
    });
    const { index, shapes } = islands;
    for (const { worker, task } of workers)
      worker.postMessage({ id: 1, index, shapes, decisions, look: task } satisfies PackRequest);
    return () => {
      for (const { worker } of workers) worker.terminate();
    };
  }, [look, islands, key]);

  return {
    ...state,
    wantedKey: key,
    looking: look?.tasks.length ?? 0,
    look: (first) => {
      if (!state.sheets || state.key !== key) return;
      best.current = [...state.sheets];
      found.current = new Map();
      const islands = state.sheets.map((s) => s.plots.length);
      const tasks = lookTasks(decisions.sheets, islands, decisions.seed, threads(), first, used.current);
      used.current = Math.max(used.current, ...tasks.map((t) => t.seed));
      if (tasks.length > 0) setLook({ tasks, key });
    },
    exhausted: exhausted === key,
    stop: () => finish(false),
  };
}
