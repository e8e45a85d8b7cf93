import earcut from 'earcut';

/**
 * Triangles of a polygon in space, as positions in its list of corners. Triangles and convex quads are split directly, others
 * by ear clipping in the plane of their area-weighted normal (Newell), so that notches stay notches.
 * @param points x y z of every corner
 */
export function triangulate(points: Float64Array): number[] {
  const n = points.length / 3;
  if (n < 3) return [];
  if (n === 3) return [0, 1, 2];
  let nx = 0;
  let ny = 0;
  let nz = 0;
  for (let i = 0; i < n; i++) {
    const a = i * 3;
    const b = ((i + 1) % n) * 3;
    nx += (points[a + 1] - points[b + 1]) * (points[a + 2] + points[b + 2]);
    ny += (points[a + 2] - points[b + 2]) * (points[a] + points[b]);
    nz += (points[a] - points[b]) * (points[a + 1] + points[b + 1]);
  }
  // The two axes that show most of it, in the order that keeps its direction.
  const ax = Math.abs(nx);
  const ay = Math.abs(ny);
  const az = Math.abs(nz);
  let u = 0;
  let v = 1;
  let up = nz;
  if (ax >= ay && ax >= az) {
    u = 1;
    v = 2;
    up = nx;
  } else if (ay >= az) {
    u = 2;
    v = 0;
    up = ny;
  }
  const flat = new Array<number>(n * 2);
  for (let i = 0; i < n; i++) {
    flat[i * 2] = points[i * 3 + u];
    flat[i * 2 + 1] = points[i * 3 + v];
  }
  if (n === 4 && convex(flat)) return [0, 1, 2, 0, 2, 3];
  const triangles = earcut(flat);
  // Ear clipping turns everything one way; the polygon's own direction is wanted.
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t] * 2, triangles[t + 1] * 2, triangles[t + 2] * 2];
    const area = (flat[b] - flat[a]) * (flat[c + 1] - flat[a + 1]) - (flat[c] - flat[a]) * (flat[b + 1] - flat[a + 1]);
    if (area * up < 0) [triangles[t + 1], triangles[t + 2]] = [triangles[t + 2], triangles[t + 1]];
  }
  return triangles;
}

function convex(p: number[]): boolean {
  let sign = 0;
  for (let i = 0; i < 4; i++) {
    const a = i * 2;
    const b = ((i + 1) % 4) * 2;
    const c = ((i + 2) % 4) * 2;
    const turn = (p[b] - p[a]) * (p[c + 1] - p[b + 1]) - (p[b + 1] - p[a + 1]) * (p[c] - p[b]);
    if (turn === 0) return false;
    if (sign === 0) sign = Math.sign(turn);
    else if (Math.sign(turn) !== sign) return false;
  }
  return true;
}
