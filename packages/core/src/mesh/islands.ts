import { DisjointSet } from '../math/disjoint-set.ts';
import { byteColumn, weldVertices } from './weld.ts';

export interface IslandMap {
  /** Island of each triangle; islands are numbered by their first triangle. */
  ofTriangle: Uint32Array;
  count: number;
}

/**
 * UV islands: triangles connected through vertices that agree in place and UV. Splits of the mesh that do not split the UVs
 * (hard edges, vertex colours) do not split islands.
 */
export function uvIslands(indices: Uint32Array, positions: Float32Array, uv: Float32Array): IslandMap {
  const vertices = positions.length / 3;
  const { first } = weldVertices([byteColumn(positions, 3), byteColumn(uv, 2)], vertices);
  const sets = new DisjointSet(vertices);
  for (let i = 0; i < indices.length; i += 3) {
    sets.join(first[indices[i]], first[indices[i + 1]]);
    sets.join(first[indices[i]], first[indices[i + 2]]);
  }
  const number = new Int32Array(vertices).fill(-1);
  const ofTriangle = new Uint32Array(indices.length / 3);
  let count = 0;
  for (let t = 0; t < ofTriangle.length; t++) {
    const root = sets.find(first[indices[t * 3]]);
    if (number[root] < 0) number[root] = count++;
    ofTriangle[t] = number[root];
  }
  return { ofTriangle, count };
}

/** Triangles of each island, in order. */
export function trianglesByIsland(map: IslandMap): Uint32Array[] {
  const sizes = new Uint32Array(map.count);
  for (const i of map.ofTriangle) sizes[i]++;
  const out = Array.from(sizes, (size) => new Uint32Array(size));
  const at = new Uint32Array(map.count);
  map.ofTriangle.forEach((island, t) => {
    out[island][at[island]++] = t;
  });
  return out;
}
