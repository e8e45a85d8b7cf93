import earcut from 'earcut';

/**
 * Triangles of a polygon in space, as positions in its list of corners. Triangles and convex quads are split directly, others
 * by ear clipping in the plane of their area-weighted normal (Newell), so that notches stay notches. Where the border of a very large one crosses
 * itself, so that no inside is right and clipping would take minutes, it becomes a fan about its first corner.
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
  if (n > CHECKED_FROM && up !== 0 && crossesItself(Float64Array.from(flat))) return fan(n);
  const triangles = earcut(flat);
  // Ear clipping turns everything one way; the polygon's own direction is wanted.
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t] * 2, triangles[t + 1] * 2, triangles[t + 2] * 2];
    const area = (flat[b] - flat[a]) * (flat[c + 1] - flat[a + 1]) - (flat[c] - flat[a]) * (flat[b + 1] - flat[a + 1]);
    if (area * up < 0) [triangles[t + 1], triangles[t + 2]] = [triangles[t + 2], triangles[t + 1]];
  }
  return triangles;
}

/** Corners from which a polygon is checked before it is clipped: below, even the worst takes 0.1 s. */
const CHECKED_FROM = 2000;

function fan(corners: number): number[] {
  const out: number[] = [];
  for (let i = 2; i < corners; i++) out.push(0, i - 1, i);
  return out;
}

/** Pairs of edges that are compared at most; a polygon that needs more counts as one that crosses itself. */
const MOST_PAIRS = 2e8;

/** Whether two edges of a polygon in the plane cross, found by a sweep along x. @param flat x y of every corner */
function crossesItself(flat: Float64Array): boolean {
  const count = flat.length / 2;
  const ends = (axis: 0 | 1, of: (a: number, b: number) => number) =>
    Float64Array.from({ length: count }, (_, edge) => of(flat[edge * 2 + axis], flat[((edge + 1) % count) * 2 + axis]));
  const [left, right, low, high] = [ends(0, Math.min), ends(0, Math.max), ends(1, Math.min), ends(1, Math.max)];
  const order = Uint32Array.from(left.keys()).sort((a, b) => left[a] - left[b]);
  const active = new Uint32Array(count);
  let open = 0;
  let pairs = 0;
  for (const edge of order) {
    pairs += open;
    if (pairs > MOST_PAIRS) return true;
    let kept = 0;
    for (let i = 0; i < open; i++) {
      const other = active[i];
      if (right[other] < left[edge]) continue;
      active[kept++] = other;
      if (low[other] <= high[edge] && high[other] >= low[edge] && edgesCross(flat, edge, other)) return true;
    }
    active[kept++] = edge;
    open = kept;
  }
  return false;
}

/** Whether two edges cross within both; ends that touch do not count. */
function edgesCross(flat: Float64Array, one: number, other: number): boolean {
  const count = flat.length / 2;
  const [a, b] = [one * 2, ((one + 1) % count) * 2];
  const [c, d] = [other * 2, ((other + 1) % count) * 2];
  return side(flat, a, b, c) * side(flat, a, b, d) < 0 && side(flat, c, d, a) * side(flat, c, d, b) < 0;
}

/** On which side of the line from a to b a point lies: −1, 0, 1. */
const side = (flat: Float64Array, a: number, b: number, p: number): number =>
  Math.sign((flat[b] - flat[a]) * (flat[p + 1] - flat[a + 1]) - (flat[p] - flat[a]) * (flat[b + 1] - flat[a + 1]));

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
