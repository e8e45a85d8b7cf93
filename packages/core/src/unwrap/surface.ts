import { byteColumn, firstEqualRows } from '../survey/distinct.ts';

/** Triangles as a surface: vertices of one place are one, and each side of a triangle knows what lies beyond it. */
export interface Surface {
  /** Places, (x, y, z), m. */
  points: Float64Array;
  /** Places of each triangle's corners. */
  corners: Uint32Array;
  /** For each side (triangle · 3 + k, from corner k to the next) the side beyond it; −1 at borders and where more than two meet. */
  beyond: Int32Array;
  /** Unit normals and areas, m²; the normal of a triangle without area is 0. */
  normals: Float64Array;
  areas: Float64Array;
}

/** @param positions (x, y, z) of each vertex @param indices three a triangle */
export function surfaceOf(positions: Float32Array, indices: Uint32Array): Surface {
  const count = positions.length / 3;
  const { first } = firstEqualRows([byteColumn(positions, 3)], count);
  const number = new Int32Array(count).fill(-1);
  const points: number[] = [];
  const corners = new Uint32Array(indices.length);
  for (let i = 0; i < indices.length; i++) {
    const v = first[indices[i]];
    if (number[v] < 0) {
      number[v] = points.length / 3;
      points.push(positions[v * 3], positions[v * 3 + 1], positions[v * 3 + 2]);
    }
    corners[i] = number[v];
  }
  const places = Float64Array.from(points);
  const sides = new Map<number, number[]>();
  const total = places.length / 3;
  for (let s = 0; s < corners.length; s++) {
    const [a, b] = sideEnds(corners, s);
    if (a === b) continue;
    const key = Math.min(a, b) * total + Math.max(a, b);
    const list = sides.get(key);
    if (list) list.push(s);
    else sides.set(key, [s]);
  }
  const beyond = new Int32Array(corners.length).fill(-1);
  for (const list of sides.values()) {
    if (list.length !== 2) continue;
    const [s, t] = list;
    // Two faces that run the same way along a side are turned against each other.
    if (corners[s] === corners[t]) continue;
    beyond[s] = t;
    beyond[t] = s;
  }
  const triangles = corners.length / 3;
  const normals = new Float64Array(triangles * 3);
  const areas = new Float64Array(triangles);
  for (let t = 0; t < triangles; t++) {
    const [a, b, c] = [corners[t * 3] * 3, corners[t * 3 + 1] * 3, corners[t * 3 + 2] * 3];
    const [ux, uy, uz] = [places[b] - places[a], places[b + 1] - places[a + 1], places[b + 2] - places[a + 2]];
    const [vx, vy, vz] = [places[c] - places[a], places[c + 1] - places[a + 1], places[c + 2] - places[a + 2]];
    const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    const l = Math.sqrt(nx * nx + ny * ny + nz * nz);
    areas[t] = l / 2;
    if (l > 0) normals.set([nx / l, ny / l, nz / l], t * 3);
  }
  return { points: places, corners, beyond, normals, areas };
}

/** The two corners of a side. */
export function sideEnds(corners: Uint32Array, side: number): [number, number] {
  const first = side - (side % 3);
  return [corners[side], corners[first + ((side - first + 1) % 3)]];
}
