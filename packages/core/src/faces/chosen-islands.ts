import { trianglesByIsland, uvIslands } from '../mesh/islands.ts';
import { type Chosen, cornersOf } from './face-table.ts';

/** A UV island of chosen faces. */
export interface ChosenIsland {
  /** Faces of the face table, ascending. */
  faces: Uint32Array;
  /** Vertices of the island, three a face: those that agree in place and UV are one. */
  local: Uint32Array;
  /** (u, v) of each of its vertices. */
  uv: Float64Array;
}

/** UV islands of chosen faces in a set, in the order of their first faces. */
export function chosenIslands(chosen: Chosen, set: number): ChosenIsland[] {
  const all = chosen.table.uvs[set];
  if (!all) return [];
  const corners = cornersOf(chosen);
  const positions = new Float32Array(corners.length * 3);
  const uv = new Float32Array(corners.length * 2);
  corners.forEach((v, i) => {
    positions.set(chosen.table.positions.subarray(v * 3, v * 3 + 3), i * 3);
    const at = (chosen.faces[Math.floor(i / 3)] * 3 + (i % 3)) * 2;
    uv[2 * i] = all[at];
    uv[2 * i + 1] = all[at + 1];
  });
  const indices = Uint32Array.from(corners.keys());
  return trianglesByIsland(uvIslands(indices, positions, uv)).map((triangles) => {
    const number = new Map<string, number>();
    const local = new Uint32Array(triangles.length * 3);
    const out: number[] = [];
    triangles.forEach((triangle, i) => {
      for (let k = 0; k < 3; k++) {
        const n = triangle * 3 + k;
        const p = positions.subarray(n * 3, n * 3 + 3);
        const key = `${p[0]} ${p[1]} ${p[2]} ${uv[2 * n]} ${uv[2 * n + 1]}`;
        let at = number.get(key);
        if (at === undefined) {
          at = number.size;
          number.set(key, at);
          out.push(uv[2 * n], uv[2 * n + 1]);
        }
        local[i * 3 + k] = at;
      }
    });
    return { faces: triangles.map((triangle) => chosen.faces[triangle]), local, uv: Float64Array.from(out) };
  });
}

/** Writes the UVs of an island's vertices. */
export function writeIsland(to: Float32Array, island: ChosenIsland, uv: ArrayLike<number>): void {
  island.faces.forEach((face, i) => {
    for (let k = 0; k < 3; k++) {
      const n = island.local[i * 3 + k];
      to[(face * 3 + k) * 2] = uv[2 * n];
      to[(face * 3 + k) * 2 + 1] = uv[2 * n + 1];
    }
  });
}
