import { useCallback, useEffect, useRef, useState } from 'react';
import type { LiveSubject } from '../../../contract/live-recipe.ts';
import { askLive } from './live-client.ts';

export interface LiveModelState {
  /** Address of the model with its own UVs. */
  url: string | null;
  layout: string | null;
  apart: readonly string[];
  problem: string | null;
  /** It is being read and laid out. */
  busy: boolean;
  stop: () => void;
  /** Reads it again after a stop. */
  again: () => void;
}

type Opened = Omit<LiveModelState, 'stop' | 'again'>;

const NONE: Opened = { url: null, layout: null, apart: [], problem: null, busy: false };

/** The model that a recipe is laid on. @param stamp of its files */
export function useLiveModel(project: string, path: string | null, stamp: string): LiveModelState {
  const [state, setState] = useState<Opened>(NONE);
  const [attempt, setAttempt] = useState(0);
  const abort = useRef<AbortController | null>(null);
  const shown = useRef<{ path: string; glb: Uint8Array } | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another model has nothing to do with the one before
  useEffect(() => {
    shown.current = null;
    setState(NONE);
  }, [path]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new stamp means other files
  useEffect(() => {
    if (path === null) return;
    const giveUp = new AbortController();
    abort.current = giveUp;
    setState((now) => ({ ...now, busy: true, problem: null }));
    const on: LiveSubject = { model: path };
    askLive<'model'>(project, on, { ask: 'model' }, giveUp.signal).then(
      ({ head, blocks }) => {
        if (giveUp.signal.aborted) return;
        const [glb] = blocks as Uint8Array<ArrayBuffer>[];
        // The same model again: the camera stays where it is.
        if (shown.current?.path === path && sameBytes(shown.current.glb, glb)) {
          setState((now) => ({ ...now, busy: false }));
          return;
        }
        shown.current = { path, glb: glb.slice() };
        const url = URL.createObjectURL(new Blob([glb], { type: 'model/gltf-binary' }));
        setState({ url, layout: head.layout, apart: head.apart, problem: null, busy: false });
      },
      (error: Error) => {
        if (!giveUp.signal.aborted) setState({ ...NONE, problem: error.message });
      },
    );
    return () => giveUp.abort();
  }, [project, path, stamp, attempt]);
  // The one before stays in sight until there is another one.
  useEffect(() => () => (state.url ? URL.revokeObjectURL(state.url) : undefined), [state.url]);
  return {
    ...state,
    stop: useCallback(() => {
      abort.current?.abort();
      setState((now) => ({ ...now, busy: false }));
    }, []),
    again: useCallback(() => setAttempt((count) => count + 1), []),
  };
}

const sameBytes = (a: Uint8Array, b: Uint8Array): boolean => a.length === b.length && a.every((v, i) => v === b[i]);
