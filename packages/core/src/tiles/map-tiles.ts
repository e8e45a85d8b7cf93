import type { Accessor, Document, Material, Primitive } from '@gltf-transform/core';
import { floatAccessor, indexAccessor, pickRows } from '../scene/accessors.ts';
import type { Part } from '../scene/model.ts';
import { surfaceOf } from '../unwrap/surface.ts';
import type { TileRow } from './tile-sheet.ts';

/**
 * Faces of a part as a tile sees them: two triangles that share their longest side and lie in one plane are one face, and what is left are
 * faces of one triangle.
 * @returns triangles of each face
 */
export function quadFaces(part: Pick<Part, 'positions' | 'indices'>): number[][] {
  const s = surfaceOf(part.positions, part.indices);
  const length = (side: number) => {
    const first = side - (side % 3);
    const [a, b] = [s.corners[side] * 3, s.corners[first + ((side - first + 1) % 3)] * 3];
    return (
      (s.points[a] - s.points[b]) ** 2 +
      (s.points[a + 1] - s.points[b + 1]) ** 2 +
      (s.points[a + 2] - s.points[b + 2]) ** 2
    );
  };
  const count = s.areas.length;
  const longest = Array.from({ length: count }, (_, t) =>
    [t * 3, t * 3 + 1, t * 3 + 2].reduce((best, side) => (length(side) > length(best) * (1 + 1e-6) ? side : best)),
  );
  const out: number[][] = [];
  const done = new Uint8Array(count);
  for (let t = 0; t < count; t++) {
    if (done[t]) continue;
    done[t] = 1;
    const other = s.beyond[longest[t]];
    const o = other < 0 ? -1 : Math.floor(other / 3);
    const flat =
      o >= 0 &&
      !done[o] &&
      longest[o] === other &&
      [0, 1, 2].reduce((n, k) => n + s.normals[t * 3 + k] * s.normals[o * 3 + k], 0) > 0.999;
    if (flat) done[o] = 1;
    out.push(flat ? [t, o] : [t]);
  }
  return out;
}

/**
 * Gives every face the whole picture of a cell: its UVs, from least to greatest along each axis, are brought into the cell, turned by quarters
 * where that is asked for. Vertices of faces that had UVs in common are split.
 * @param set UV set that is read and written @param cells of each face @param turns quarter turns of each face
 */
export function mapFaces(
  document: Document,
  part: Part,
  faces: readonly (readonly number[])[],
  cells: readonly TileRow[],
  turns: ArrayLike<number>,
  material: Material,
): void {
  const uv = part.uvs[0];
  if (!uv) throw new Error(`"${part.name}" has no UVs; its faces cannot take cells`);
  const p: Primitive = part.primitive;
  const rows: number[] = [];
  const values: number[] = [];
  const indices = new Uint32Array(part.indices.length);
  faces.forEach((triangles, f) => {
    let [u0, v0, u1, v1] = [Infinity, Infinity, -Infinity, -Infinity];
    for (const t of triangles)
      for (let k = 0; k < 3; k++) {
        const v = part.indices[t * 3 + k];
        u0 = Math.min(u0, uv[2 * v]);
        u1 = Math.max(u1, uv[2 * v]);
        v0 = Math.min(v0, uv[2 * v + 1]);
        v1 = Math.max(v1, uv[2 * v + 1]);
      }
    const [cu0, cv0, cu1, cv1] = cells[f].uv;
    const known = new Map<number, number>();
    for (const t of triangles)
      for (let k = 0; k < 3; k++) {
        const v = part.indices[t * 3 + k];
        let at = known.get(v);
        if (at === undefined) {
          at = rows.push(v) - 1;
          known.set(v, at);
          let a = u1 > u0 ? (uv[2 * v] - u0) / (u1 - u0) : 0.5;
          let b = v1 > v0 ? (uv[2 * v + 1] - v0) / (v1 - v0) : 0.5;
          for (let q = 0; q < turns[f]; q++) [a, b] = [1 - b, a];
          values.push(cu0 + a * (cu1 - cu0), cv0 + b * (cv1 - cv0));
        }
        indices[t * 3 + k] = at;
      }
  });
  const list = Uint32Array.from(rows);
  for (const s of p.listSemantics()) p.setAttribute(s, pickRows(document, p.getAttribute(s) as Accessor, list));
  p.setAttribute('TEXCOORD_0', floatAccessor(document, 'VEC2', Float32Array.from(values)));
  p.setAttribute('TANGENT', null);
  p.setIndices(indexAccessor(document, indices, list.length));
  p.setMode(4);
  p.setMaterial(material);
}
