import type { MapKind } from '@wembrel/core/decisions/map-kinds';
import { proofSettings, RaySettings } from '@wembrel/core/decisions/ray-decisions';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { stem } from '@wembrel/core/handover/names';
import type { GroupIds } from '@wembrel/core/rays/maps/group-ids';
import { pairing } from '@wembrel/core/rays/pairing/pairings';
import type { Model } from '@wembrel/core/scene/model';
import type { PartOfJob } from '../progress.ts';
import { bakeRays, type RayBake } from '../rays/bake-rays.ts';
import { bakedSource, objectRefs } from '../rays/whole-model.ts';
import type { Images } from '../read/images.ts';
import { inputSettings, ownReach } from './input-settings.ts';

/** A model that is to be dressed. */
export interface Undressed {
  source: Model;
  /** The same with UVs of its own, see `ownLayout`. */
  low: Model;
  /** What is baked across, else the source itself. */
  high: readonly Model[];
  /** Slots that stay as they are. */
  apart: ReadonlySet<number>;
  images: Images;
  /** Face groups of the source. */
  groups: GroupIds;
}

export interface BakeSettings {
  /** Whose settings of curvature, AO and so on hold. */
  asked: Recipe;
  /** px */
  side: number;
  bits: 8 | 16;
  proof: boolean;
  /** Samples of a texel along an axis. */
  grid: number;
  /** px */
  margin: number;
}

/** Rays from the model with its own layout to its source, or to its high-poly. */
export async function bakeOnto(
  { source, high, apart, images }: Undressed,
  low: Model,
  maps: readonly MapKind[],
  { side, bits, proof, grid, margin, asked }: BakeSettings,
  { scope, progress }: PartOfJob,
): Promise<RayBake> {
  const own = { ...bakedSource(source, apart), path: `${source.path} (source)` };
  const across = high.length > 0 ? high.map((one) => bakedSource(one, new Set())) : [own];
  const settings = RaySettings.parse({
    maps,
    size: side,
    samples: proof ? 1 : grid * grid,
    bits,
    margin: 0,
    padding: Math.max(16, margin),
    hit: high.length > 0 ? 'outside' : 'nearest',
    ...inputSettings(asked),
  });
  const pair = pairing(stem(source.path), across.flatMap(objectRefs), objectRefs(low));
  if (high.length === 0) {
    pair.outward = pair.inward = ownReach(low.parts);
  }
  return bakeRays(
    { models: [...across, low], pairings: [pair], settings: proof ? proofSettings(settings) : settings, images },
    scope,
    { onProgress: progress },
  );
}
