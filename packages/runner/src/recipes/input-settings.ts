import type { RayRecipeInput } from '@wembrel/core/decisions/ray-decisions';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';

/** Rays and directions of a texel of what conditions read: their stretches are soft, and neighbours are blended. */
const RAYS = 32;
const DIRECTIONS = 8;

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
