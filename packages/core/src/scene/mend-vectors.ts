import type { Accessor, Document, Primitive } from '@gltf-transform/core';
import { addByAngle } from '../math/triangle.ts';

/** How far the length of a unit vector may be off; what a byte a component stores is within it. */
const TOLERANCE = 0.0067;

/**
 * Puts right the normals and tangents of a document, in place: vectors of other lengths are made unit ones, normals of no length are computed from the
 * faces about them (Thürmer & Wüthrich 1998), and tangents that have no direction or side are dropped, so that whoever draws computes them.
 * @returns what was put right, as sentences
 */
export function mendVectors(document: Document): string[] {
  const primitives = document
    .getRoot()
    .listMeshes()
    .flatMap((mesh) => mesh.listPrimitives());
  let normals = 0;
  for (const [accessor, users] of usersOf(primitives, 'NORMAL')) normals += mendNormals(accessor, users);
  let tangents = 0;
  for (const [accessor, users] of usersOf(primitives, 'TANGENT')) {
    if (!spoiledTangents(accessor)) continue;
    tangents += users.length;
    for (const primitive of users) primitive.setAttribute('TANGENT', null);
    if (accessor.listParents().every((parent) => parent.propertyType === 'Root')) accessor.dispose();
  }
  const mended: string[] = [];
  if (normals > 0)
    mended.push(`${normals} normal${normals === 1 ? ' is' : 's are'} no unit vector${normals === 1 ? '' : 's'}`);
  if (tangents > 0)
    mended.push(`tangents of ${tangents} primitive${tangents === 1 ? '' : 's'} have no direction or no side`);
  return mended;
}

function usersOf(primitives: readonly Primitive[], semantic: string): Map<Accessor, Primitive[]> {
  const users = new Map<Accessor, Primitive[]>();
  for (const primitive of primitives) {
    const accessor = primitive.getAttribute(semantic);
    if (accessor) users.set(accessor, [...(users.get(accessor) ?? []), primitive]);
  }
  return users;
}

const lengthOf = (vector: readonly number[]): number => Math.sqrt(vector[0] ** 2 + vector[1] ** 2 + vector[2] ** 2);

function mendNormals(accessor: Accessor, users: readonly Primitive[]): number {
  const vector = [0, 0, 0];
  const spoiled: number[] = [];
  for (let i = 0; i < accessor.getCount(); i++) {
    const length = lengthOf(accessor.getElement(i, vector));
    // What is not finite is refused elsewhere, with its place.
    if (Math.abs(length - 1) > TOLERANCE) spoiled.push(i);
  }
  if (spoiled.length === 0) return 0;
  const computed = faceNormals(accessor.getCount(), users);
  for (const i of spoiled) {
    let from = accessor.getElement(i, vector);
    if (!(lengthOf(from) > 1e-6)) from = [computed[i * 3], computed[i * 3 + 1], computed[i * 3 + 2]];
    const length = lengthOf(from);
    accessor.setElement(i, length > 0 ? from.map((value) => value / length) : [0, 1, 0]);
  }
  return spoiled.length;
}

/** Normals of vertices as sums over the triangles about them, weighted by angle, x y z. */
function faceNormals(count: number, users: readonly Primitive[]): Float64Array {
  const sums = new Float64Array(count * 3);
  for (const primitive of users) {
    const accessor = primitive.getAttribute('POSITION');
    if (!accessor || primitive.getMode() !== 4 || accessor.getCount() !== count) continue;
    const positions = new Float64Array(count * 3);
    const point = [0, 0, 0];
    for (let i = 0; i < count; i++) positions.set(accessor.getElement(i, point), i * 3);
    const indices = primitive.getIndices()?.getArray() ?? Uint32Array.from({ length: count }, (_, i) => i);
    for (let t = 0; t + 2 < indices.length; t += 3) {
      const corners: [number, number, number] = [indices[t], indices[t + 1], indices[t + 2]];
      if (corners.some((corner) => corner >= count)) continue;
      addByAngle(positions, corners, (k, x, y, z) => {
        const at = corners[k] * 3;
        sums[at] += x;
        sums[at + 1] += y;
        sums[at + 2] += z;
      });
    }
  }
  return sums;
}

function spoiledTangents(accessor: Accessor): boolean {
  const vector = [0, 0, 0, 0];
  for (let i = 0; i < accessor.getCount(); i++) {
    accessor.getElement(i, vector);
    if (!(Math.abs(lengthOf(vector) - 1) <= TOLERANCE) || Math.abs(Math.abs(vector[3]) - 1) > TOLERANCE) return true;
  }
  return false;
}
