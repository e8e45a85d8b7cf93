import type { LookSource } from '@wembrel/core/decisions/recipe/look';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { LiveSubject } from '../../../contract/live-recipe.ts';
import { askLive } from './live-client.ts';

const PX = 48;

/** Small pictures of the looks of a recipe, each asked for once. */
export function useSlabs(
  project: string,
  on: LiveSubject | null,
  recipe: Recipe | null,
  stamp: string,
): (look: LookSource) => string | null {
  const [known, setKnown] = useState<ReadonlyMap<string, string>>(new Map());
  const asked = useRef(new Set<string>());
  const looks = (recipe?.lines ?? []).flatMap(({ what }) =>
    'look' in what && what.look.from !== 'values' ? [JSON.stringify(what.look)] : [],
  );
  const wanted = [...new Set(looks)].sort().join('\n');
  useEffect(() => {
    if (!on) return;
    for (const text of wanted.split('\n')) {
      const key = `${stamp} ${text}`;
      if (text === '' || asked.current.has(key)) continue;
      asked.current.add(key);
      askLive<'slab'>(project, on, { ask: 'slab', look: JSON.parse(text) as LookSource, px: PX }).then(
        ({ blocks }) => {
          if (!blocks[0]) return;
          const canvas = document.createElement('canvas');
          canvas.width = PX;
          canvas.height = PX;
          canvas.getContext('2d')?.putImageData(new ImageData(Uint8ClampedArray.from(blocks[0]), PX, PX), 0, 0);
          setKnown((now) => new Map(now).set(text, canvas.toDataURL()));
        },
        () => asked.current.delete(key),
      );
    }
  }, [project, wanted, stamp, on]);
  return useCallback((look: LookSource) => known.get(JSON.stringify(look)) ?? null, [known]);
}
