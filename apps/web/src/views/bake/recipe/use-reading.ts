import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import type { TexelReading } from '@wembrel/core/recipes/readings/at-texel';
import { useEffect, useState } from 'react';
import { askLive } from './live-client.ts';
import type { Asked } from './use-coverage.ts';

/** What is known of a place of the sheet, shares of its sides; null where nothing is there, or nobody asks. */
export function useReading(
  { project, on, side, stamp }: Asked,
  recipe: Recipe | null,
  place: readonly [number, number] | null,
): { reading: TexelReading | null; waiting: boolean } {
  const [found, setFound] = useState<TexelReading | null>(null);
  const [waiting, setWaiting] = useState(false);
  const subject = JSON.stringify(on);
  const text = place === null ? '' : JSON.stringify(recipe);
  // biome-ignore lint/correctness/useExhaustiveDependencies: by what they say
  useEffect(() => {
    if (!on || !recipe || !place) {
      setFound(null);
      return;
    }
    const giveUp = new AbortController();
    setWaiting(true);
    const tell = (texel: TexelReading | null) => {
      setFound(texel);
      setWaiting(false);
    };
    const [x, y] = place.map((v) => v - Math.floor(v));
    askLive<'texel'>(project, on, { ask: 'texel', recipe, side, x, y }, giveUp.signal).then(
      ({ head }) => !giveUp.signal.aborted && tell(head.texel),
      () => !giveUp.signal.aborted && tell(null),
    );
    return () => giveUp.abort();
  }, [project, subject, text, place?.[0], place?.[1], side, stamp]);
  return { reading: found, waiting };
}
