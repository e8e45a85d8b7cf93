import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import type { MeasuredCondition } from '@wembrel/core/recipes/conditions/measure';
import { useCallback, useEffect, useRef } from 'react';
import { askLive } from './live-client.ts';
import type { Asked } from './use-coverage.ts';

/** px of the sheet on which values are measured. */
const SIDE = 256;

/** The value at a place, shares of the sheet's sides, or the nearest one within two texels; null where nothing is measured. */
export function measuredAt(texels: Float32Array, side: number, [u, v]: readonly [number, number]): number | null {
  const x = Math.min(side - 1, Math.floor((u - Math.floor(u)) * side));
  const y = Math.min(side - 1, Math.floor((v - Math.floor(v)) * side));
  let best: number | null = null;
  let least = Infinity;
  for (let dy = -2; dy <= 2; dy++)
    for (let dx = -2; dx <= 2; dx++) {
      if (y + dy < 0 || y + dy >= side || x + dx < 0 || x + dx >= side) continue;
      const value = texels[(y + dy) * side + x + dx];
      if (Number.isNaN(value) || dx * dx + dy * dy >= least) continue;
      best = value;
      least = dx * dx + dy * dy;
    }
  return best;
}

/** Values of what a condition measures, once they were asked for; they do not hang on its stretch. @param condition null: nothing is asked */
export function useMeasured(
  { project, on, stamp }: Asked,
  recipe: Recipe | null,
  condition: MeasuredCondition | null,
): (place: readonly [number, number]) => number | null {
  const texels = useRef<Float32Array | null>(null);
  const text = JSON.stringify(
    condition && [{ ...condition, from: null, to: null, soft: 0 }, recipe?.inputs, on, stamp],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: by what they say
  useEffect(() => {
    texels.current = null;
    if (!on || !recipe || !condition) return;
    const giveUp = new AbortController();
    const question = { ask: 'measured' as const, recipe, side: SIDE as 256, where: condition };
    askLive<'measured'>(project, on, question, giveUp.signal).then(
      ({ blocks: [bytes] }) => {
        // Floats stand at multiples of four bytes.
        if (bytes && !giveUp.signal.aborted) texels.current = new Float32Array(bytes.slice().buffer);
      },
      () => {},
    );
    return () => giveUp.abort();
  }, [project, text]);
  return useCallback((place) => (texels.current ? measuredAt(texels.current, SIDE, place) : null), []);
}
