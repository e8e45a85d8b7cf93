/** A convex solid: corners (x, y, z), and faces that list their corners counterclockwise as seen from outside. */
export interface Polyhedron {
  corners: Float64Array;
  faces: number[][];
}

/** Faces of a box whose corners go up in x, within it in y, within it in z. */
export const BOX_FACES: number[][] = [
  [0, 1, 3, 2],
  [4, 6, 7, 5],
  [0, 4, 5, 1],
  [2, 3, 7, 6],
  [0, 2, 6, 4],
  [1, 5, 7, 3],
];

/** A plane: its normal of length one, pointing outward, and its distance from the origin along it. */
export type Plane = readonly [nx: number, ny: number, nz: number, distance: number];

/** The plane of a face (Newell's method, which does not mind corners on a line). */
export function facePlane({ corners }: Polyhedron, face: readonly number[]): Plane {
  let [nx, ny, nz] = [0, 0, 0];
  let [cx, cy, cz] = [0, 0, 0];
  face.forEach((a, i) => {
    const b = face[(i + 1) % face.length];
    const [ax, ay, az] = [corners[3 * a], corners[3 * a + 1], corners[3 * a + 2]];
    const [bx, by, bz] = [corners[3 * b], corners[3 * b + 1], corners[3 * b + 2]];
    nx += (ay - by) * (az + bz);
    ny += (az - bz) * (ax + bx);
    nz += (ax - bx) * (ay + by);
    cx += ax;
    cy += ay;
    cz += az;
  });
  const length = Math.hypot(nx, ny, nz) || 1;
  [nx, ny, nz] = [nx / length, ny / length, nz / length];
  return [nx, ny, nz, (nx * cx + ny * cy + nz * cz) / face.length];
}

/** Three corners for each triangle: every face as a fan. */
export function triangles({ faces }: Polyhedron): Uint32Array {
  const out: number[] = [];
  for (const face of faces) for (let i = 2; i < face.length; i++) out.push(face[0], face[i - 1], face[i]);
  return Uint32Array.from(out);
}

/** Volume inside, m³: signed tetrahedra to the origin. */
export function volume(solid: Polyhedron): number {
  const { corners } = solid;
  const index = triangles(solid);
  let sum = 0;
  for (let t = 0; t < index.length; t += 3) {
    const [a, b, c] = [3 * index[t], 3 * index[t + 1], 3 * index[t + 2]];
    sum +=
      corners[a] * (corners[b + 1] * corners[c + 2] - corners[b + 2] * corners[c + 1]) -
      corners[a + 1] * (corners[b] * corners[c + 2] - corners[b + 2] * corners[c]) +
      corners[a + 2] * (corners[b] * corners[c + 1] - corners[b + 1] * corners[c]);
  }
  return sum / 6;
}

/** How far the farthest point lies outside of a solid, m; 0 where all are inside. @param points (x, y, z) */
export const farthestOutside = (solid: Polyhedron, points: ArrayLike<number>): number =>
  farthestOutsideAll([solid], points);

/** How far the farthest point lies from the nearest of some solids, m, by their planes; 0 where each is inside of one. */
export function farthestOutsideAll(solids: readonly Polyhedron[], points: ArrayLike<number>): number {
  const planes = solids.map((solid) => solid.faces.map((face) => facePlane(solid, face)));
  let most = 0;
  for (let i = 0; i < points.length; i += 3) {
    let nearest = Infinity;
    for (const sides of planes) {
      let outside = 0;
      for (const [x, y, z, d] of sides)
        outside = Math.max(outside, x * points[i] + y * points[i + 1] + z * points[i + 2] - d);
      nearest = Math.min(nearest, outside);
    }
    most = Math.max(most, nearest);
  }
  return most;
}

/** Longest side of the box around points along the axes, m. */
export function extent(points: ArrayLike<number>): number {
  let most = 0;
  for (let k = 0; k < 3; k++) {
    let [low, high] = [Infinity, -Infinity];
    for (let i = k; i < points.length; i += 3) {
      low = Math.min(low, points[i]);
      high = Math.max(high, points[i]);
    }
    most = Math.max(most, high - low);
  }
  return Number.isFinite(most) ? most : 0;
}
