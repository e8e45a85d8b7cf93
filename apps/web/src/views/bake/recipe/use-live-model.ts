import { useEffect, useState } from 'react';
import type { LiveSubject } from '../../../contract/live-recipe.ts';
import { askLive } from './live-client.ts';

export interface LiveModelState {
  /** Address of the model with its own UVs. */
  url: string | null;
  layout: string | null;
  apart: readonly string[];
  problem: string | null;
}

const NONE: LiveModelState = { url: null, layout: null, apart: [], problem: null };

/** The model that a recipe is laid on. @param stamp of its files */
export function useLiveModel(project: string, path: string | null, stamp: string): LiveModelState {
  const [state, setState] = useState<LiveModelState>(NONE);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new stamp means other files
  useEffect(() => {
    setState(NONE);
    if (path === null) return;
    const giveUp = new AbortController();
    let url: string | null = null;
    const on: LiveSubject = { model: path };
    askLive<'model'>(project, on, { ask: 'model' }, giveUp.signal).then(
      ({ head, blocks }) => {
        if (giveUp.signal.aborted) return;
        url = URL.createObjectURL(new Blob([blocks[0] as Uint8Array<ArrayBuffer>], { type: 'model/gltf-binary' }));
        setState({ url, layout: head.layout, apart: head.apart, problem: null });
      },
      (error: Error) => {
        if (!giveUp.signal.aborted) setState({ ...NONE, problem: error.message });
      },
    );
    return () => {
      giveUp.abort();
      if (url) URL.revokeObjectURL(url);
    };
  }, [project, path, stamp]);
  return state;
}
