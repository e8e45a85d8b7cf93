/** Nearest point of a triangle to (x, y): barycentrics into `bary`; returns the squared distance. */
export function nearestOnTriangle(p: Float64Array, o: number, x: number, y: number, bary: Float64Array): number {
  let best = Infinity;
  for (let k = 0; k < 3; k++) {
    const j = k === 2 ? 0 : k + 1;
    const ax = p[o + k * 2];
    const ay = p[o + k * 2 + 1];
    const dx = p[o + j * 2] - ax;
    const dy = p[o + j * 2 + 1] - ay;
    const d = dx * dx + dy * dy;
    let s = d > 0 ? ((x - ax) * dx + (y - ay) * dy) / d : 0;
    s = s < 0 ? 0 : s > 1 ? 1 : s;
    const ex = ax + s * dx - x;
    const ey = ay + s * dy - y;
    const e = ex * ex + ey * ey;
    if (e < best) {
      best = e;
      bary[0] = bary[1] = bary[2] = 0;
      bary[k] = 1 - s;
      bary[j] += s;
    }
  }
  return best;
}

/** Weights of a triangle's corners at (x, y); those of the nearest point where it has no area. */
export function barycentrics(p: Float64Array, o: number, x: number, y: number, out: Float64Array): void {
  const ax = p[o];
  const ay = p[o + 1];
  const ux = p[o + 2] - ax;
  const uy = p[o + 3] - ay;
  const vx = p[o + 4] - ax;
  const vy = p[o + 5] - ay;
  const det = ux * vy - vx * uy;
  if (det === 0) {
    nearestOnTriangle(p, o, x, y, out);
    return;
  }
  const b = ((x - ax) * vy - vx * (y - ay)) / det;
  const c = (ux * (y - ay) - (x - ax) * uy) / det;
  out[0] = 1 - b - c;
  out[1] = b;
  out[2] = c;
}

/** Texels in whose squares a triangle may lie: centre within half a diagonal. */
export const TOUCH = Math.SQRT1_2;
