import { emptyMaps } from '@wembrel/core/bake/sheet-maps';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { surfaceOfCell } from '@wembrel/core/recipes/surface';
import type { JobScope } from '../../pool/job-scope.ts';
import type { InputFile } from '../../read/collect.ts';
import { layGround } from '../ground.ts';
import { NOTHING_BAKED } from '../inputs.ts';
import { Looks } from '../looks.ts';
import { LiveSurface } from './live-surface.ts';

export interface LiveCellOptions {
  ground: Recipe['ground'];
  pictures: readonly InputFile[];
  /** Looks that may be taken; null: only those that are no model's. */
  looks?: Looks | null;
  /** px */
  side: number;
  /** Width and height on the ground, m. */
  metres: readonly [number, number];
}

/** A cell on which a recipe is tuned. */
export function openLiveCell({ ground, pictures, looks, side, metres }: LiveCellOptions, scope: JobScope): LiveSurface {
  const maps = emptyMaps(side, side, { normal: true, emissive: true, alpha: false, emissiveStrength: 1 });
  layGround(maps, ground);
  maps.owner.fill(1);
  return new LiveSurface(
    surfaceOfCell('cell', [side, side], metres),
    maps,
    looks ?? new Looks(scope, pictures),
    () => Promise.resolve(NOTHING_BAKED),
    scope,
  );
}
