import { twinHalfEdges } from '../math/half-edges.ts';
import { byteColumn, weldVertices } from '../mesh/weld.ts';
import { placesOf } from '../rays/target/casting.ts';
import type { RayMesh } from '../rays/target/ray-mesh.ts';

/** A surface alone: triangles over places, each of which is one vertex; m. */
export interface LightMesh {
  /** x y z of each place. */
  positions: Float32Array;
  /** Three a triangle, counter-clockwise from outside. */
  indices: Uint32Array;
}

/**
 * The triangles of a mesh that are kept, over places: vertices that lie at one point and belong to one shell become one, so that a surface hangs
 * together across slots, UV borders and hard edges. Triangles without three places are left out, and so are those that lie on one another.
 * @param keep by triangle, 0 where it is left out; null: all are kept
 * @param shellOf by source of the mesh: surfaces of different shells never join; null: all are one shell
 */
export function lightMesh(mesh: RayMesh, keep: Uint8Array | null, shellOf: readonly number[] | null): LightMesh {
  const places = shellPlaces(mesh, shellOf);
  const corners = new Uint32Array(mesh.indices.length);
  let used = 0;
  for (let t = 0; t < mesh.triangles; t++) {
    if (keep && keep[t] === 0) continue;
    const [a, b, c] = [0, 1, 2].map((k) => places[mesh.indices[t * 3 + k]]);
    if (a === b || b === c || a === c) continue;
    // The least comes first, so that the same triangle is the same row.
    const least = Math.min(a, b, c);
    corners.set(least === a ? [a, b, c] : least === b ? [b, c, a] : [c, a, b], used * 3);
    used++;
  }
  const { first } = weldVertices([byteColumn(corners.subarray(0, used * 3), 3)], used);
  const indices: number[] = [];
  for (let t = 0; t < used; t++) if (first[t] === t) indices.push(...corners.subarray(t * 3, t * 3 + 3));
  return compacted({ positions: mesh.positions, indices: Uint32Array.from(indices) });
}

/** The first vertex at the place of each vertex, of those in the same shell. */
function shellPlaces(mesh: RayMesh, shellOf: readonly number[] | null): Uint32Array {
  const places = placesOf(mesh);
  if (!shellOf) return places;
  const shells = new Uint32Array(places.length);
  for (let i = 0; i < mesh.indices.length; i++) shells[mesh.indices[i]] = shellOf[mesh.sourceOf[Math.floor(i / 3)]];
  return weldVertices([byteColumn(places, 1), byteColumn(shells, 1)], places.length).first;
}

/** Rows that indices use, in the order in which they use them, and the indices into those. @param count rows that there are */
export function usedRows(indices: ArrayLike<number>, count: number): { rows: Uint32Array; indices: Uint32Array } {
  const number = new Int32Array(count).fill(-1);
  const rows: number[] = [];
  const out = Uint32Array.from(indices, (v) => {
    if (number[v] < 0) number[v] = rows.push(v) - 1;
    return number[v];
  });
  return { rows: Uint32Array.from(rows), indices: out };
}

/** Some rows of values, one after another. @param size values a row */
export function pickedRows(values: Float32Array, size: number, rows: Uint32Array): Float32Array {
  const out = new Float32Array(rows.length * size);
  rows.forEach((row, i) => {
    out.set(values.subarray(row * size, row * size + size), i * size);
  });
  return out;
}

/** The places that triangles use, in the order in which they use them. */
export function compacted({ positions, indices }: LightMesh): LightMesh {
  const used = usedRows(indices, positions.length / 3);
  return { positions: pickedRows(positions, 3, used.rows), indices: used.indices };
}

/** Several meshes as one, whose surfaces do not join. */
export function joinedMeshes(meshes: readonly LightMesh[]): LightMesh {
  const positions = new Float32Array(meshes.reduce((sum, mesh) => sum + mesh.positions.length, 0));
  const indices = new Uint32Array(meshes.reduce((sum, mesh) => sum + mesh.indices.length, 0));
  let [v, i] = [0, 0];
  for (const mesh of meshes) {
    positions.set(mesh.positions, v * 3);
    for (let k = 0; k < mesh.indices.length; k++) indices[i + k] = mesh.indices[k] + v;
    v += mesh.positions.length / 3;
    i += mesh.indices.length;
  }
  return { positions, indices };
}

/** What a closed surface encloses, m³; of an open one nothing that means anything. */
export function volumeOf({ positions: p, indices }: LightMesh): number {
  let sum = 0;
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3];
    sum +=
      p[a] * (p[b + 1] * p[c + 2] - p[b + 2] * p[c + 1]) +
      p[a + 1] * (p[b + 2] * p[c] - p[b] * p[c + 2]) +
      p[a + 2] * (p[b] * p[c + 1] - p[b + 1] * p[c]);
  }
  return sum / 6;
}

/** Whether every edge belongs to two triangles that run along it in opposite directions. */
export function isWatertight({ indices }: Pick<LightMesh, 'indices'>): boolean {
  const twin = twinHalfEdges(indices);
  return indices.length > 0 && twin.every((other, side) => other >= 0 && indices[other] !== indices[side]);
}
