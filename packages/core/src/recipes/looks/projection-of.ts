import type { Lay } from '../../decisions/recipe/look.ts';
import { SideProjection } from '../decals/side.ts';
import { BoxProjection } from '../projection/box.ts';
import type { Projection } from '../projection/places.ts';
import { UvProjection } from '../projection/uv.ts';
import { ScatterProjection } from '../scatter/scatter.ts';
import { meanMetresPerPx, type RecipeSurface } from '../surface.ts';

/** @param aspect height over width of the picture that is laid */
export function projectionOf(lay: Lay, surface: RecipeSurface, aspect: number): Projection {
  if (lay.by === 'box') return new BoxProjection(lay.blend);
  if (lay.by === 'uv') return new UvProjection(meanMetresPerPx(surface));
  return lay.by === 'side' ? new SideProjection(lay) : new ScatterProjection(surface, lay, aspect);
}
