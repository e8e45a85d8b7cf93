import type { Accessor, Document, Mesh, Primitive } from '@gltf-transform/core';
import { addByAngle, crossOf, longestSquare, NO_AREA } from '../math/triangle.ts';
import { byteColumn, weldVertices } from '../mesh/weld.ts';
import { indexAccessor, pickRows } from '../scene/accessors.ts';
import { readFloats, triangleIndices } from '../scene/attributes.ts';

const SAME_NORMAL = Math.cos((1 * Math.PI) / 180);

/** Primitives that repairs may change: plain triangles without morph targets. */
function plain(primitive: Primitive): boolean {
  return primitive.getMode() === 4 && primitive.listTargets().length === 0;
}

function indicesOf(primitive: Primitive): Uint32Array {
  const count = primitive.getAttribute('POSITION')?.getCount() ?? 0;
  return triangleIndices(primitive.getIndices()?.getArray() ?? null, count, 4);
}

const columnOf = (accessor: Accessor) => byteColumn(accessor.getArray() as ArrayBufferView, accessor.getElementSize());

/**
 * Leaves out faces without area and faces that have the three places of an earlier one.
 * @returns how many
 */
export function dropFaces(document: Document): number {
  let dropped = 0;
  for (const mesh of document.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      const position = primitive.getAttribute('POSITION');
      if (!plain(primitive) || !position?.getArray()) continue;
      const indices = indicesOf(primitive);
      const xyz = readFloats(position);
      const { first } = weldVertices([byteColumn(xyz, 3)], xyz.length / 3);
      const seen = new Set<string>();
      const kept: number[] = [];
      for (let t = 0; t < indices.length; t += 3) {
        const corner = [indices[t], indices[t + 1], indices[t + 2]];
        const places = corner.map((v) => first[v]).sort((a, b) => a - b);
        const key = places.join(' ');
        if (!hasArea(xyz, corner) || seen.has(key)) continue;
        seen.add(key);
        kept.push(...corner);
      }
      if (kept.length === indices.length) continue;
      dropped += (indices.length - kept.length) / 3;
      primitive.setIndices(indexAccessor(document, Uint32Array.from(kept), position.getCount()));
    }
  return dropped;
}

function hasArea(p: Float32Array, [a, b, c]: number[]): boolean {
  return crossOf(p, a, b, c, [0, 0, 0]) > NO_AREA * longestSquare(p, a, b, c);
}

/**
 * Makes one vertex of those that differ only by a normal turned less than 1° (and a tangent that agrees as closely).
 * @returns how many vertices went
 */
export function weldNormals(document: Document): number {
  let gone = 0;
  for (const mesh of document.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      const normal = primitive.getAttribute('NORMAL');
      if (!plain(primitive) || !normal) continue;
      const count = normal.getCount();
      const others = primitive.listSemantics().filter((text) => text !== 'NORMAL' && text !== 'TANGENT');
      const { first } = weldVertices(
        others.map((other) => columnOf(primitive.getAttribute(other) as Accessor)),
        count,
      );
      const n = readFloats(normal);
      const tangent = primitive.getAttribute('TANGENT');
      const t = tangent && readFloats(tangent);
      const near = (a: number, b: number) => {
        const dot = (v: Float32Array, size: number) =>
          v[a * size] * v[b * size] + v[a * size + 1] * v[b * size + 1] + v[a * size + 2] * v[b * size + 2];
        return dot(n, 3) >= SAME_NORMAL && (!t || (dot(t, 4) >= SAME_NORMAL && t[a * 4 + 3] === t[b * 4 + 3]));
      };
      const to = Uint32Array.from({ length: count }, (_, v) => (first[v] !== v && near(v, first[v]) ? first[v] : v));
      const rows: number[] = [];
      const at = new Int32Array(count).fill(-1);
      const indices = indicesOf(primitive).map((v) => {
        const w = to[v];
        if (at[w] < 0) at[w] = rows.push(w) - 1;
        return at[w];
      });
      if (rows.length === count) continue;
      gone += count - rows.length;
      const list = Uint32Array.from(rows);
      for (const text of primitive.listSemantics())
        primitive.setAttribute(text, pickRows(document, primitive.getAttribute(text) as Accessor, list));
      primitive.setIndices(indexAccessor(document, indices, rows.length));
    }
  return gone;
}

/**
 * Normals made again: smooth over faces that share a place and its UV, hard where the UVs are split.
 * @param wanted names of the materials @returns how many primitives were changed
 */
export function hardenAtUvBorders(document: Document, wanted: ReadonlySet<string>): number {
  let changed = 0;
  for (const mesh of document.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      const position = primitive.getAttribute('POSITION');
      const uv = primitive.getAttribute('TEXCOORD_0');
      if (!plain(primitive) || !position || !uv || !wanted.has(primitive.getMaterial()?.getName() ?? '')) continue;
      const xyz = readFloats(position);
      const { first } = weldVertices([byteColumn(xyz, 3), byteColumn(readFloats(uv), 2)], xyz.length / 3);
      const sums = new Float64Array(xyz.length);
      const indices = indicesOf(primitive);
      for (let t = 0; t < indices.length; t += 3)
        addByAngle(xyz, [indices[t], indices[t + 1], indices[t + 2]], (k, x, y, z) => {
          const at = first[indices[t + k]] * 3;
          sums[at] += x;
          sums[at + 1] += y;
          sums[at + 2] += z;
        });
      const normals = new Float32Array(xyz.length);
      for (let v = 0; v < xyz.length / 3; v++) {
        const s = sums.subarray(first[v] * 3, first[v] * 3 + 3);
        const length = Math.sqrt(s[0] ** 2 + s[1] ** 2 + s[2] ** 2);
        for (let k = 0; k < 3; k++) normals[v * 3 + k] = length > 0 ? s[k] / length : Number(k === 1);
      }
      primitive.setAttribute(
        'NORMAL',
        document.createAccessor().setType('VEC3').setArray(normals).setBuffer(position.getBuffer()),
      );
      // They belong to the old normals; whoever reads the file makes them again.
      primitive.setAttribute('TANGENT', null);
      changed++;
    }
  return changed;
}

function sameBytes(a: ArrayBufferView, b: ArrayBufferView): boolean {
  if (a.byteLength !== b.byteLength) return false;
  const x = new Uint8Array(a.buffer, a.byteOffset, a.byteLength);
  const y = new Uint8Array(b.buffer, b.byteOffset, b.byteLength);
  return x.every((v, i) => v === y[i]);
}

function sameMesh(mesh: Mesh, b: Mesh): boolean {
  const [p, q] = [mesh.listPrimitives(), b.listPrimitives()];
  return (
    p.length === q.length &&
    p.every((x, i) => {
      const y = q[i];
      const semantics = x.listSemantics().sort();
      if (!plain(x) || !plain(y) || x.getMaterial() !== y.getMaterial()) return false;
      if (x.listExtensions().length + y.listExtensions().length > 0) return false;
      if (semantics.join() !== y.listSemantics().sort().join()) return false;
      const equal = (text: string) => {
        const [accessor, n] = [x.getAttribute(text) as Accessor, y.getAttribute(text) as Accessor];
        return (
          accessor.getComponentType() === n.getComponentType() &&
          sameBytes(accessor.getArray() as ArrayBufferView, n.getArray() as ArrayBufferView)
        );
      };
      return semantics.every(equal) && sameBytes(indicesOf(x), indicesOf(y));
    })
  );
}

/**
 * Meshes with the same contents and materials become one mesh with several placings.
 * @returns how many meshes went
 */
export function makeInstances(document: Document): number {
  const kept: Mesh[] = [];
  let gone = 0;
  for (const mesh of document.getRoot().listMeshes()) {
    const duplicate = kept.find((k) => sameMesh(k, mesh));
    if (!duplicate) {
      kept.push(mesh);
      continue;
    }
    for (const node of document.getRoot().listNodes()) if (node.getMesh() === mesh) node.setMesh(duplicate);
    mesh.dispose();
    gone++;
  }
  return gone;
}
