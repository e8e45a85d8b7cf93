import type { RayRecipeInput } from '@wembrel/core/decisions/ray-decisions';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { boxOf, largestSide } from '@wembrel/core/rays/target/mesh-box';

/** Rays and directions of a texel of what conditions read: their stretches are soft, and neighbours are blended. */
const RAYS = 32;
const DIRECTIONS = 8;

/** How near a model's own surface is looked for, as a share of its largest side. */
const OWN_REACH = 1e-3;

/** How far rays reach that a surface casts to itself, m. */
export const ownReach = (surfaces: Parameters<typeof boxOf>[0]): number =>
  Math.max(1e-9, largestSide(boxOf(surfaces)) * OWN_REACH);

/** How a recipe wants the maps that its conditions read. */
export function inputSettings({ inputs }: Recipe): Pick<RayRecipeInput, 'curvature' | 'ao' | 'thickness' | 'id'> {
  const metres = (mm: number | null) => (mm === null ? null : mm / 1000);
  return {
    curvature: { radius: metres(inputs.curvature), directions: DIRECTIONS },
    ao: { distance: metres(inputs.ao), rays: RAYS },
    thickness: { distance: metres(inputs.thickness), rays: RAYS },
    id: { by: inputs.ids },
  };
}
