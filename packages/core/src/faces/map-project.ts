import type { FaceEditOf } from '../decisions/face-decisions.ts';
import type { TextureLay } from '../scene/texture-lay.ts';
import { boxCharts, cylindricalCharts, planarCharts } from '../unwrap/projections.ts';
import { type Chosen, surfaceOfChosen } from './face-table.ts';
import { writeFlat } from './lay-flat.ts';

/**
 * UVs for a tiling texture: faces seen along axes, in metres from the model's origin, so that pieces side by side go on into each other.
 * @param layOf how the textures of a face are laid
 * @returns how many pieces there are
 */
export function projectFaces(
  chosen: readonly Chosen[],
  edit: FaceEditOf<'project'>,
  layOf: (c: Chosen) => (face: number) => TextureLay,
): number {
  let pieces = 0;
  for (const c of chosen) {
    const surface = surfaceOfChosen(c);
    const flats =
      edit.method === 'box'
        ? boxCharts(surface)
        : edit.method === 'planar'
          ? planarCharts(surface, edit.axis)
          : cylindricalCharts(surface, edit.axis);
    const k = c.table.scale / edit.repeat;
    pieces += flats.length;
    for (const flat of flats) writeFlat(c, flat, layOf(c), (u, v) => [u * k, -v * k]);
  }
  return pieces;
}
