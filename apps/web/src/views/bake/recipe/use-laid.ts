import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { LaidView, LiveSide, LiveSubject } from '../../../contract/live-recipe.ts';
import type { LiveMaps } from '../../../stage/live-sheet.ts';
import { askLive } from './live-client.ts';

/** A recipe as it looks now, or looked before the last change. */
export interface Laid {
  view: LaidView;
  maps: LiveMaps;
}

/** How a recipe is laid. */
export interface Laying {
  side: LiveSide;
  /** Of the files: with other ones the same recipe looks different. */
  stamp: string;
  /** Nothing is asked for while it is false. */
  active: boolean;
}

export interface LaidState {
  laid: Laid | null;
  /** Something newer is on its way. */
  busy: boolean;
  problem: string | null;
  stop: () => void;
}

/** ms beyond which a smaller picture is asked for first. */
const SLOW = 450;

/**
 * The maps of a recipe, followed by each change: the last picture stays until the next one is there; where it takes long, a smaller one comes first.
 */
export function useLaid(
  project: string,
  on: LiveSubject | null,
  recipe: Recipe | null,
  { side, stamp, active }: Laying,
): LaidState {
  const [state, setState] = useState<Omit<LaidState, 'stop'>>({ laid: null, busy: false, problem: null });
  const took = useRef(Infinity);
  const abort = useRef<AbortController | null>(null);
  /** What the picture in sight was asked by: when it is active again, it is not asked for again. */
  const laidBy = useRef('');
  const subject = JSON.stringify(on);
  const text = JSON.stringify(recipe);
  // Another model has nothing to do with the picture before.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a change of the subject alone
  useEffect(() => {
    took.current = Infinity;
    laidBy.current = '';
    setState({ laid: null, busy: false, problem: null });
  }, [subject]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new stamp means other files
  useEffect(() => {
    if (!on || !recipe || !active) return;
    const by = JSON.stringify([project, subject, text, side, stamp]);
    if (laidBy.current === by) return;
    const giveUp = new AbortController();
    abort.current = giveUp;
    setState((now) => ({ ...now, busy: true, problem: null }));
    const lay = async (px: LiveSide) => {
      const { head, blocks } = await askLive<'lay'>(project, on, { ask: 'lay', recipe, side: px }, giveUp.signal);
      if (giveUp.signal.aborted) return;
      if (px === side) {
        took.current = head.milliseconds;
        laidBy.current = by;
      }
      setState({ laid: { view: head, maps: mapsOf(head, blocks) }, busy: px !== side, problem: null });
    };
    (async () => {
      try {
        if (took.current > SLOW && side > 256) await lay(256);
        await lay(side);
      } catch (error) {
        if (giveUp.signal.aborted) return;
        setState((now) => ({ ...now, busy: false, problem: (error as Error).message }));
      }
    })();
    return () => giveUp.abort();
  }, [project, subject, text, side, stamp, active]);
  const stop = useCallback(() => {
    abort.current?.abort();
    setState((now) => ({ ...now, busy: false }));
  }, []);
  return { ...state, stop };
}

function mapsOf(head: LaidView, blocks: Uint8Array[]): LiveMaps {
  const [baseColor, orm, ...more] = blocks;
  const normal = head.normal ? (more.shift() ?? null) : null;
  const emissive = head.emissive ? (more.shift() ?? null) : null;
  const { width, height, emissiveStrength } = head;
  return { width, height, baseColor, orm, normal, emissive, emissiveStrength };
}
