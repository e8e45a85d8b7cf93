import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import type { PackAnswer, PackedSheet, PackRequest, PlotIndex } from '../../contract/plots.ts';
import type { MergeDecisions, ProjectView } from '../../contract/project.ts';
import { call, failedLast, running, startJob } from '../workbench/api.ts';

export interface GatheredIslands {
  index: PlotIndex;
  shapes: Float64Array;
  faces: Uint32Array;
}

async function binary(url: string): Promise<ArrayBuffer> {
  const response = await fetch(url);
  if (!response.ok) throw new Error(`the server answered ${response.status}`);
  return response.arrayBuffer();
}

/**
 * Islands of the present routes; gathered anew by the server when the routes have changed.
 * @param wished false: nothing is asked of the server
 */
export function useIslands(
  project: ProjectView,
  wished = true,
): {
  islands: GatheredIslands | null;
  gathering: boolean;
  problem: string | null;
} {
  const job = project.jobs.find((j) => j.kind === 'layout' && j.state === 'done' && j.madeFrom === project.layoutStamp);
  const busy = running(project, 'layout');
  const failed = failedLast(project, 'layout');
  const [problem, setProblem] = useState<string | null>(null);
  const asked = useRef('');
  const wanted = !wished || job || busy || !project.survey ? null : project.layoutStamp;
  useEffect(() => {
    if (!wanted || asked.current === wanted) return;
    asked.current = wanted;
    startJob(project.id, 'layout').then(
      () => setProblem(null),
      (e: Error) => setProblem(e.message),
    );
  }, [wanted, project.id]);
  const { data, error } = useQuery({
    queryKey: ['islands', job?.id],
    enabled: job !== undefined,
    staleTime: Infinity,
    queryFn: async (): Promise<GatheredIslands> => {
      const base = `/api/jobs/${job?.id}/files`;
      const [index, shapes, faces] = await Promise.all([
        call<PlotIndex>(`${base}/plots.json`),
        binary(`${base}/shapes.bin`),
        binary(`${base}/faces.bin`),
      ]);
      return { index, shapes: new Float64Array(shapes), faces: new Uint32Array(faces) };
    },
  });
  return {
    islands: job ? (data ?? null) : null,
    gathering: Boolean(busy) || (!job && !failed),
    problem: problem ?? error?.message ?? (!job && !busy ? (failed?.message ?? null) : null),
  };
}

export interface Packing {
  /** What the sheets were packed for, and what is asked for now. */
  key: string;
  wantedKey: string;
  sheets: PackedSheet[] | null;
  /** 0 … 1 while it packs, else null. */
  share: number | null;
  seconds: number;
  problem: string | null;
  /** Looking on for better layouts until told to stop. */
  looking: boolean;
  look: () => void;
  /** Ends the looking with the best so far. @returns the effort with which it is found again */
  stop: () => number;
}

type State = Pick<Packing, 'key' | 'sheets' | 'share' | 'seconds' | 'problem'>;

/** Effort of looking on: more than anybody waits for. */
const ENDLESS = 100_000;

const keyOf = (d: MergeDecisions, effort: number) =>
  JSON.stringify([d.sheets, d.rotate, d.scale, d.snap, effort, d.seed]);

/**
 * Packs in a worker whenever what packing reads has changed; a run that is overtaken is ended. Better layouts show as they are found.
 */
export function usePacking(islands: GatheredIslands | null, decisions: MergeDecisions): Packing {
  const [state, setState] = useState<State>({ key: '', sheets: null, share: null, seconds: 0, problem: null });
  const [looking, setLooking] = useState(false);
  const key = keyOf(decisions, decisions.effort);
  const effort = looking ? ENDLESS : decisions.effort;
  const done = useRef('');
  const ending = useRef<() => void>(() => {});
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key holds what packing reads of the decisions
  useEffect(() => {
    if (!islands || islands.index.sheets.length !== decisions.sheets.length) return;
    // What was found by looking on is what its effort finds.
    if (!looking && done.current === key) return;
    const worker = new Worker(new URL('../../workers/pack.worker.ts', import.meta.url), { type: 'module' });
    setState((s) => ({ ...s, share: 0, problem: null }));
    worker.onmessage = ({ data }: MessageEvent<PackAnswer>) => {
      if (data.type === 'progress') setState((s) => ({ ...s, share: data.share }));
      else if (data.type === 'better')
        setState((s) => {
          if (!s.sheets || s.sheets.length !== decisions.sheets.length) return s;
          const known = s.sheets[data.index];
          // While looking on, the best stays in sight.
          if (looking && known.scale > data.sheet.scale) return s;
          return { ...s, sheets: s.sheets.with(data.index, data.sheet), seconds: data.seconds };
        });
      else {
        worker.terminate();
        setLooking(false);
        setState((s) =>
          data.type === 'done'
            ? { key, sheets: data.sheets, share: null, seconds: data.seconds, problem: null }
            : { ...s, share: null, problem: data.message },
        );
      }
    };
    worker.onerror = (e) => setState((s) => ({ ...s, share: null, problem: e.message || 'packing failed' }));
    const asked = { ...decisions, effort };
    worker.postMessage({ id: 1, index: islands.index, shapes: islands.shapes, decisions: asked } satisfies PackRequest);
    ending.current = () => worker.terminate();
    return () => worker.terminate();
  }, [islands, key, looking]);
  return {
    ...state,
    wantedKey: key,
    looking,
    look: () => setLooking(true),
    stop: () => {
      ending.current();
      const rounds = Math.max(decisions.effort, ...(state.sheets ?? []).map((s) => s.rounds));
      // What shows is just what so many rounds find, unless other sheets are still to get as many: then all are packed anew.
      const [only, ...others] = state.sheets ?? [];
      if (only && others.length === 0 && only.rounds === rounds) {
        done.current = keyOf(decisions, rounds);
        setState((s) => ({ ...s, key: done.current, share: null }));
      }
      setLooking(false);
      return rounds;
    },
  };
}
