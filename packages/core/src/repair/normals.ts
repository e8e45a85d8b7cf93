import type { Accessor, Document } from '@gltf-transform/core';
import { crossOf } from '../math/triangle.ts';
import { byteColumn, weldVertices } from '../mesh/weld.ts';
import { floatAccessor, indexAccessor, pickRows } from '../scene/accessors.ts';
import { readFloats, triangleIndices } from '../scene/attributes.ts';

/**
 * Normals made again, weighted by area: at each corner the mean of the faces around its place that bend away from its own face by no more than
 * an angle; sharper edges are hard, and large faces stay flat beside narrow bevels. Vertices are split where that asks for it.
 * @param wanted names of the materials → degrees
 * @returns how many primitives were changed
 */
export function normalsByAngle(document: Document, wanted: ReadonlyMap<string, number>): number {
  let changed = 0;
  for (const mesh of document.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      const degrees = wanted.get(primitive.getMaterial()?.getName() ?? '');
      const position = primitive.getAttribute('POSITION');
      if (
        degrees === undefined ||
        !position?.getArray() ||
        primitive.getMode() < 4 ||
        primitive.listTargets().length > 0
      )
        continue;
      const xyz = readFloats(position);
      const indices = triangleIndices(
        primitive.getIndices()?.getArray() ?? null,
        position.getCount(),
        primitive.getMode(),
      );
      const normals = cornerNormals(xyz, indices, degrees);
      const rows: number[] = [];
      const values: number[] = [];
      const known = new Map<string, number>();
      const next = new Uint32Array(indices.length);
      for (let i = 0; i < indices.length; i++) {
        const n = normals.subarray(3 * i, 3 * i + 3);
        const key = `${indices[i]} ${n.join()}`;
        let at = known.get(key);
        if (at === undefined) {
          at = rows.push(indices[i]) - 1;
          known.set(key, at);
          values.push(...n);
        }
        next[i] = at;
      }
      const list = Uint32Array.from(rows);
      for (const text of primitive.listSemantics())
        primitive.setAttribute(text, pickRows(document, primitive.getAttribute(text) as Accessor, list));
      primitive.setAttribute('NORMAL', floatAccessor(document, 'VEC3', Float32Array.from(values)));
      // They belong to the old normals; whoever reads the file makes them again.
      primitive.setAttribute('TANGENT', null);
      primitive.setIndices(indexAccessor(document, next, rows.length));
      primitive.setMode(4);
      changed++;
    }
  return changed;
}

/**
 * The normal of each corner, three numbers each: mean of the faces around its place, by their areas, that bend away from its own by no more than so many degrees.
 * @param apart whether two corners at one place never share a normal, however little the surface bends there
 */
export function cornerNormals(
  xyz: Float32Array,
  indices: Uint32Array,
  degrees: number,
  apart: (a: number, b: number) => boolean = () => false,
): Float32Array {
  const { first } = weldVertices([byteColumn(xyz, 3)], xyz.length / 3);
  const faces = indices.length / 3;
  // Cross products: direction and twice the area in one.
  const cross = new Float64Array(faces * 3);
  const length = new Float64Array(faces);
  const around = new Map<number, number[]>();
  const out = [0, 0, 0];
  for (let f = 0; f < faces; f++) {
    length[f] = crossOf(xyz, indices[3 * f], indices[3 * f + 1], indices[3 * f + 2], out);
    cross.set(out, 3 * f);
    for (let k = 0; k < 3; k++) {
      const place = first[indices[3 * f + k]];
      const list = around.get(place);
      if (list) list.push(3 * f + k);
      else around.set(place, [3 * f + k]);
    }
  }
  const least = Math.cos((degrees * Math.PI) / 180) - 1e-9;
  const normals = new Float32Array(indices.length * 3);
  for (let i = 0; i < indices.length; i++) {
    const f = Math.floor(i / 3);
    const sum = [0, 0, 0];
    for (const j of around.get(first[indices[i]]) as number[]) {
      const g = Math.floor(j / 3);
      const dot = [0, 1, 2].reduce((sum, k) => sum + cross[3 * f + k] * cross[3 * g + k], 0);
      if (g !== f && (!(dot >= least * length[f] * length[g]) || apart(i, j))) continue;
      for (let k = 0; k < 3; k++) sum[k] += cross[3 * g + k];
    }
    const l = Math.sqrt(sum[0] ** 2 + sum[1] ** 2 + sum[2] ** 2);
    for (let k = 0; k < 3; k++) normals[3 * i + k] = l > 0 ? sum[k] / l : Number(k === 1);
  }
  return normals;
}
