import type { Document } from '@gltf-transform/core';
import { byteColumn, weldVertices } from '../mesh/weld.ts';
import { floatAccessor } from '../scene/accessors.ts';
import { readFloats } from '../scene/attributes.ts';

/**
 * Brings UVs of vertices at one place together that differ by no more than a distance: what an export tore apart by rounding. Each group takes
 * the UV of its first vertex; groups are chains of such neighbours. Wide gaps, which are meant, stay.
 * @param distance in UV units
 * @returns how many vertices were moved
 */
export function weldUvs(document: Document, distance: number): number {
  let moved = 0;
  for (const mesh of document.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      const position = primitive.getAttribute('POSITION');
      if (!position?.getArray()) continue;
      const xyz = readFloats(position);
      const count = xyz.length / 3;
      const { first } = weldVertices([byteColumn(xyz, 3)], count);
      const places = new Map<number, number[]>();
      for (let v = 0; v < count; v++) {
        const list = places.get(first[v]);
        if (list) list.push(v);
        else places.set(first[v], [v]);
      }
      for (const semantic of primitive.listSemantics()) {
        if (!semantic.startsWith('TEXCOORD_')) continue;
        const accessor = primitive.getAttribute(semantic);
        if (!accessor) continue;
        const uv = Float32Array.from(readFloats(accessor));
        let here = 0;
        for (const list of places.values()) here += list.length > 1 ? weldPlace(uv, list, distance) : 0;
        if (here === 0) continue;
        moved += here;
        primitive.setAttribute(semantic, floatAccessor(document, 'VEC2', uv));
      }
    }
  return moved;
}

function weldPlace(uv: Float32Array, vertices: readonly number[], distance: number): number {
  let moved = 0;
  const done = new Set<number>();
  for (const seed of vertices) {
    if (done.has(seed)) continue;
    done.add(seed);
    const chain = [seed];
    for (let at = 0; at < chain.length; at++)
      for (const v of vertices) {
        if (done.has(v)) continue;
        const [du, dv] = [uv[2 * v] - uv[2 * chain[at]], uv[2 * v + 1] - uv[2 * chain[at] + 1]];
        if (Math.sqrt(du * du + dv * dv) > distance) continue;
        done.add(v);
        chain.push(v);
      }
    for (const v of chain) {
      if (uv[2 * v] === uv[2 * seed] && uv[2 * v + 1] === uv[2 * seed + 1]) continue;
      uv[2 * v] = uv[2 * seed];
      uv[2 * v + 1] = uv[2 * seed + 1];
      moved++;
    }
  }
  return moved;
}
