import type { Accessor, Document, Material, Primitive } from '@gltf-transform/core';
import { quadPairs } from '../mesh/quad-pairs.ts';
import { surfaceOf } from '../mesh/surface.ts';
import { floatAccessor, indexAccessor, pickRows } from '../scene/accessors.ts';
import type { Part } from '../scene/model.ts';
import type { TileRow } from './tile-sheet.ts';

/** Least cosine between the two halves of a face. */
const FLAT = 0.999;

/**
 * Faces of a part as a tile sees them: two triangles in one plane that make a quad (`quadPairs`) are one face, and what is left are faces of one
 * triangle.
 * @returns triangles of each face, in the order of their first ones
 */
export function quadFaces(part: Pick<Part, 'positions' | 'indices'>): number[][] {
  const surface = surfaceOf(part.positions, part.indices);
  const other = new Int32Array(surface.areas.length).fill(-1);
  for (const side of quadPairs(surface, FLAT)) {
    const [t, o] = [Math.floor(side / 3), Math.floor(surface.twin[side] / 3)];
    other[t] = o;
    other[o] = t;
  }
  return [...other.keys()].flatMap((key) => (other[key] < 0 ? [[key]] : other[key] > key ? [[key, other[key]]] : []));
}

export interface TiledFaces {
  faces: readonly (readonly number[])[];
  cells: readonly TileRow[];
  turns: ArrayLike<number>;
  material: Material;
}

/**
 * Gives every face the whole picture of a cell: its UVs, from least to greatest along each axis, are brought into the cell, turned by quarters
 * where that is asked for. Vertices of faces that had UVs in common are split.
 * @param set UV set that is read and written @param cells of each face @param turns quarter turns of each face
 */
export function mapFaces(document: Document, part: Part, { faces, cells, turns, material }: TiledFaces): void {
  const uv = part.uvs[0];
  if (!uv) throw new Error(`"${part.name}" has no UVs; its faces cannot take cells`);
  const primitive: Primitive = part.primitive;
  const rows: number[] = [];
  const values: number[] = [];
  const indices = new Uint32Array(part.indices.length);
  faces.forEach((triangles, f) => {
    let [u0, v0, u1, v1] = [Infinity, Infinity, -Infinity, -Infinity];
    for (const triangle of triangles)
      for (let k = 0; k < 3; k++) {
        const v = part.indices[triangle * 3 + k];
        u0 = Math.min(u0, uv[2 * v]);
        u1 = Math.max(u1, uv[2 * v]);
        v0 = Math.min(v0, uv[2 * v + 1]);
        v1 = Math.max(v1, uv[2 * v + 1]);
      }
    const [cu0, cv0, cu1, cv1] = cells[f].uv;
    const known = new Map<number, number>();
    for (const triangle of triangles)
      for (let k = 0; k < 3; k++) {
        const v = part.indices[triangle * 3 + k];
        let at = known.get(v);
        if (at === undefined) {
          at = rows.push(v) - 1;
          known.set(v, at);
          let a = u1 > u0 ? (uv[2 * v] - u0) / (u1 - u0) : 0.5;
          let b = v1 > v0 ? (uv[2 * v + 1] - v0) / (v1 - v0) : 0.5;
          for (let q = 0; q < turns[f]; q++) [a, b] = [1 - b, a];
          values.push(cu0 + a * (cu1 - cu0), cv0 + b * (cv1 - cv0));
        }
        indices[triangle * 3 + k] = at;
      }
  });
  const list = Uint32Array.from(rows);
  for (const text of primitive.listSemantics())
    primitive.setAttribute(text, pickRows(document, primitive.getAttribute(text) as Accessor, list));
  primitive.setAttribute('TEXCOORD_0', floatAccessor(document, 'VEC2', Float32Array.from(values)));
  primitive.setAttribute('TANGENT', null);
  primitive.setIndices(indexAccessor(document, indices, list.length));
  primitive.setMode(4);
  primitive.setMaterial(material);
}
