/**
 * Normal of a triangle in a list of positions, not of length 1.
 * @param a, b, c numbers of the corners @returns twice the area; `out` gets the cross product of two sides
 */
export function crossOf(p: ArrayLike<number>, a: number, b: number, c: number, out: Float64Array | number[]): number {
  const [i, j, k] = [a * 3, b * 3, c * 3];
  const ex = p[j] - p[i];
  const ey = p[j + 1] - p[i + 1];
  const ez = p[j + 2] - p[i + 2];
  const fx = p[k] - p[i];
  const fy = p[k + 1] - p[i + 1];
  const fz = p[k + 2] - p[i + 2];
  out[0] = ey * fz - ez * fy;
  out[1] = ez * fx - ex * fz;
  out[2] = ex * fy - ey * fx;
  return Math.sqrt(out[0] * out[0] + out[1] * out[1] + out[2] * out[2]);
}

/** Square of the longest side. */
export function longestSquare(p: ArrayLike<number>, a: number, b: number, c: number): number {
  const side = (i: number, j: number) =>
    (p[j * 3] - p[i * 3]) ** 2 + (p[j * 3 + 1] - p[i * 3 + 1]) ** 2 + (p[j * 3 + 2] - p[i * 3 + 2]) ** 2;
  return Math.max(side(a, b), side(b, c), side(c, a));
}

/** Angle at corner `a`, radians. */
export function angleAt(p: ArrayLike<number>, a: number, b: number, c: number): number {
  let dot = 0;
  let ee = 0;
  let ff = 0;
  for (let k = 0; k < 3; k++) {
    const e = p[b * 3 + k] - p[a * 3 + k];
    const f = p[c * 3 + k] - p[a * 3 + k];
    dot += e * f;
    ee += e * e;
    ff += f * f;
  }
  return ee > 0 && ff > 0 ? Math.acos(Math.min(1, Math.max(-1, dot / Math.sqrt(ee * ff)))) : 0;
}

/** Triangles whose double area is below this share of their squared longest side have no area worth the name. */
export const NO_AREA = 1e-7;

/**
 * Adds a triangle to the normals of its three places, weighted by the angle it has there, so that it does not matter how a polygon was
 * cut into triangles (Thürmer and Wüthrich 1998).
 * @param add takes the place (0, 1, 2) and the weighted normal
 */
export function addByAngle(
  p: ArrayLike<number>,
  corners: readonly [number, number, number],
  add: (corner: 0 | 1 | 2, x: number, y: number, z: number) => void,
): void {
  const n = [0, 0, 0];
  const [a, b, c] = corners;
  const length = crossOf(p, a, b, c, n);
  if (!(length > 0)) return;
  const turn = [
    [a, b, c],
    [b, c, a],
    [c, a, b],
  ] as const;
  for (const k of [0, 1, 2] as const) {
    const w = angleAt(p, ...turn[k]) / length;
    add(k, n[0] * w, n[1] * w, n[2] * w);
  }
}
