import type { FaceEditOf } from '../decisions/face-decisions.ts';
import { byteColumn, weldVertices } from '../mesh/weld.ts';
import { cornerNormals } from '../repair/normals.ts';
import { type Chosen, writableNormals } from './face-table.ts';

/**
 * Makes the normals of chosen faces again; faces beside them lend their bend and keep their own normals.
 * They have UVs in the set whose borders count, if any.
 * @returns places at which chosen corners have more than one normal
 */
export function makeNormals(chosen: readonly Chosen[], edit: FaceEditOf<'normals'>): number {
  let hard = 0;
  for (const { table, faces } of chosen) {
    const uv = edit.borders === null ? null : table.uvs[edit.borders];
    const apart = uv ? (a: number, b: number) => uv[2 * a] !== uv[2 * b] || uv[2 * a + 1] !== uv[2 * b + 1] : undefined;
    const made = cornerNormals(table.positions, table.indices, edit.angle, apart);
    const normals = writableNormals(table);
    const { first } = weldVertices([byteColumn(table.positions, 3)], table.positions.length / 3);
    const known = new Int32Array(table.positions.length / 3).fill(-1);
    const split = new Set<number>();
    for (const face of faces) {
      normals.set(made.subarray(face * 9, face * 9 + 9), face * 9);
      for (let k = 0; k < 3; k++) {
        const corner = face * 3 + k;
        const place = first[table.indices[corner]];
        const before = known[place];
        if (before < 0) known[place] = corner;
        else if ([0, 1, 2].some((x) => made[before * 3 + x] !== made[corner * 3 + x])) split.add(place);
      }
    }
    hard += split.size;
  }
  return hard;
}
