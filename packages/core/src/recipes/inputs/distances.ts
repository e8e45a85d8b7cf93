import type { Bvh } from '@wembrel/kernels/bvh-layout';
import { ClosestPoint } from '@wembrel/kernels/closest-point';
import { nearestFeature } from '@wembrel/kernels/nearest';
import type { RecipeSurface } from '../surface.ts';
import { eachTexel } from './borders.ts';

/** What is measured for a tile of a map of distances. */
export interface DistanceTiles {
  surface: RecipeSurface;
  /** Of the borders; null where there is none. */
  borders: Bvh | null;
  /** mm; farther ones are as far as this. */
  reach: number;
  /** Texels that lie inside, where distances are signed: those are negative. */
  inside: Uint8Array | null;
  /** One value a texel, mm; what no island covers is left alone. */
  out: Float32Array;
}

/** Measures the texels of some tiles: the straight distance in space to the nearest border. */
export function measureDistances(
  { surface, borders, reach, inside, out }: DistanceTiles,
  tiles: { numbers: Iterable<number>; lists: ReadonlyMap<number, Uint32Array> },
): void {
  const closest = borders ? new ClosestPoint(borders) : null;
  eachTexel(
    surface,
    (texel, _, [x, y, z]) => {
      const found = closest?.find(x, y, z, reach / 1000) ?? false;
      const d = found && closest ? Math.min(reach, closest.distance * 1000) : reach;
      out[texel] = inside?.[texel] ? -d : d;
    },
    tiles,
  );
}

/** Carries distances to all texels beside islands, so that reading between texels finds them. @param out not a number where a texel was not measured */
export function spreadDistances(out: Float32Array, width: number, height: number): void {
  const known = Uint8Array.from(out, (v) => Number(!Number.isNaN(v)));
  const nearest = nearestFeature(known, width, height);
  for (let i = 0; i < out.length; i++) if (!known[i] && nearest[i] >= 0) out[i] = out[nearest[i]];
}
