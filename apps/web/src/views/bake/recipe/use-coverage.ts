import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { useEffect, useState } from 'react';
import type { LiveSide, LiveSubject } from '../../../contract/live-recipe.ts';
import type { LiveMask } from '../../../stage/live-sheet.ts';
import { askLive } from './live-client.ts';

/** Of whom something is asked. */
export interface Asked {
  project: string;
  on: LiveSubject | null;
  /** px of the maps in sight. */
  side: LiveSide;
  /** With other files the answer is another one. */
  stamp: string;
}

export interface LineCoverage {
  line: string;
  mask: LiveMask;
  /** Of the surface, 0 … 1. */
  share: number;
}

/** ms that a line is pointed at before it is asked where it acts. */
const REST = 120;

/** Where a line acts, once somebody points at it for a while; null: nobody does. */
export function useCoverage(
  { project, on, side, stamp }: Asked,
  recipe: Recipe | null,
  line: string | null,
): LineCoverage | null {
  const [found, setFound] = useState<LineCoverage | null>(null);
  const subject = JSON.stringify(on);
  const text = line === null ? '' : JSON.stringify(recipe);
  // biome-ignore lint/correctness/useExhaustiveDependencies: by what they say
  useEffect(() => {
    if (!on || !recipe || line === null) {
      setFound(null);
      return;
    }
    const giveUp = new AbortController();
    const timer = setTimeout(async () => {
      try {
        const { head, blocks } = await askLive<'line'>(project, on, { ask: 'line', recipe, side, line }, giveUp.signal);
        const share = 'share' in head ? head.share : null;
        const mask = { width: side, height: side, texels: blocks[0] };
        if (!giveUp.signal.aborted) setFound(share === null ? null : { line, mask, share });
      } catch {
        if (!giveUp.signal.aborted) setFound(null);
      }
    }, REST);
    return () => {
      clearTimeout(timer);
      giveUp.abort();
    };
  }, [project, subject, text, line, side, stamp]);
  return line === null ? null : found;
}
