import { twinHalfEdges } from '../math/half-edges.ts';
import { byteColumn, weldVertices } from './weld.ts';

/** Triangles as a surface: vertices of one place are one, and each side of a triangle knows what lies beyond it. */
export interface Surface {
  /** Places, (x, y, z), m. */
  points: Float64Array;
  /** Places of each triangle's corners. */
  corners: Uint32Array;
  /** For each side (triangle · 3 + k, from corner k to the next) its twin, the same side as the neighbouring face runs along it; −1 at borders and where more than two meet. */
  twin: Int32Array;
  /** Unit normals and areas, m²; the normal of a triangle without area is 0. */
  normals: Float64Array;
  areas: Float64Array;
}

/** @param positions (x, y, z) of each vertex @param indices three a triangle */
export function surfaceOf(positions: Float32Array, indices: Uint32Array): Surface {
  const count = positions.length / 3;
  const { first } = weldVertices([byteColumn(positions, 3)], count);
  const number = new Int32Array(count).fill(-1);
  const corners = new Uint32Array(indices.length);
  let placeCount = 0;
  for (let i = 0; i < indices.length; i++) {
    const v = first[indices[i]];
    if (number[v] < 0) number[v] = placeCount++;
    corners[i] = number[v];
  }
  const places = new Float64Array(placeCount * 3);
  for (let v = 0; v < count; v++) if (number[v] >= 0) places.set(positions.subarray(v * 3, v * 3 + 3), number[v] * 3);
  const twin = twinHalfEdges(corners);
  // Two faces that run the same way along a side are turned against each other.
  for (let s = 0; s < twin.length; s++) {
    const t = twin[s];
    if (t < 0 || corners[s] !== corners[t]) continue;
    twin[s] = -1;
    twin[t] = -1;
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
  return { points: places, corners, twin: twin, normals, areas };
}

/** m². */
export const surfaceArea = ({ areas }: Pick<Surface, 'areas'>): number => areas.reduce((sum, area) => sum + area, 0);

/** The two corners of a side. */
export function sideEnds(corners: Uint32Array, side: number): [number, number] {
  const first = side - (side % 3);
  return [corners[side], corners[first + ((side - first + 1) % 3)]];
}

/**
 * Pieces that hang together over sides for which `open` holds, ascending, in the order of their first triangles.
 * @param open asked for each side (triangle · 3 + k) with a triangle beyond it
 */
export function surfacePieces(surface: Surface, open: (side: number, twin: number) => boolean): Uint32Array[] {
  const count = surface.areas.length;
  const done = new Uint8Array(count);
  const out: Uint32Array[] = [];
  for (let seed = 0; seed < count; seed++) {
    if (done[seed]) continue;
    done[seed] = 1;
    const list = [seed];
    for (let at = 0; at < list.length; at++)
      for (let k = 0; k < 3; k++) {
        const side = list[at] * 3 + k;
        const other = surface.twin[side];
        if (other < 0) continue;
        const t = Math.floor(other / 3);
        if (done[t] || !open(side, other)) continue;
        done[t] = 1;
        list.push(t);
      }
    out.push(Uint32Array.from(list).sort());
  }
  return out;
}

/** Cosine of the bend at a side, 1 where the surface goes on flat. */
export function cosineAt({ normals }: Surface, side: number, twin: number): number {
  const [a, b] = [side - (side % 3), twin - (twin % 3)];
  return normals[a] * normals[b] + normals[a + 1] * normals[b + 1] + normals[a + 2] * normals[b + 2];
}

/** Some triangles of a surface as a surface of their own; what is not among them is beyond its border. */
export function partOfSurface(surface: Surface, triangles: Uint32Array): Surface {
  const number = new Int32Array(surface.areas.length).fill(-1);
  triangles.forEach((triangle, i) => {
    number[triangle] = i;
  });
  const corners = new Uint32Array(triangles.length * 3);
  const twin = new Int32Array(triangles.length * 3);
  const normals = new Float64Array(triangles.length * 3);
  const areas = new Float64Array(triangles.length);
  triangles.forEach((triangle, i) => {
    areas[i] = surface.areas[triangle];
    for (let k = 0; k < 3; k++) {
      const other = surface.twin[triangle * 3 + k];
      const face = other < 0 ? -1 : number[Math.floor(other / 3)];
      corners[i * 3 + k] = surface.corners[triangle * 3 + k];
      twin[i * 3 + k] = face < 0 ? -1 : face * 3 + (other % 3);
      normals[i * 3 + k] = surface.normals[triangle * 3 + k];
    }
  });
  return { points: surface.points, corners, twin: twin, normals, areas };
}
