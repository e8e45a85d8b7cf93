/** Independent of the packer: exact distances between sets of triangles, for tests. */

function segmentDistance(a: number[], b: number[], c: number[], d: number[]): number {
  const cross = (o: number[], p: number[], q: number[]) =>
    (p[0] - o[0]) * (q[1] - o[1]) - (p[1] - o[1]) * (q[0] - o[0]);
  const d1 = cross(a, b, c);
  const d2 = cross(a, b, d);
  const d3 = cross(c, d, a);
  const d4 = cross(c, d, b);
  if (d1 * d2 < 0 && d3 * d4 < 0) return 0;
  const point = (p: number[], s: number[], e: number[]) => {
    const dx = e[0] - s[0];
    const dy = e[1] - s[1];
    const l = dx * dx + dy * dy;
    const t = l === 0 ? 0 : Math.min(1, Math.max(0, ((p[0] - s[0]) * dx + (p[1] - s[1]) * dy) / l));
    return Math.hypot(p[0] - s[0] - t * dx, p[1] - s[1] - t * dy);
  };
  return Math.min(point(a, c, d), point(b, c, d), point(c, a, b), point(d, a, b));
}

function inside(p: number[], t: number[][]): boolean {
  const side = (a: number[], b: number[]) => (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]);
  const s = [side(t[0], t[1]), side(t[1], t[2]), side(t[2], t[0])];
  return s.every((v) => v > 0) || s.every((v) => v < 0);
}

const corners = (s: Float64Array, i: number) => [
  [s[i], s[i + 1]],
  [s[i + 2], s[i + 3]],
  [s[i + 4], s[i + 5]],
];

/** Least distance between two shapes given as triangles; 0 when they overlap. */
export function shapeDistance(a: Float64Array, b: Float64Array): number {
  let best = Infinity;
  for (let i = 0; i < a.length; i += 6)
    for (let j = 0; j < b.length; j += 6) {
      const p = corners(a, i);
      const q = corners(b, j);
      if (inside(p[0], q) || inside(q[0], p)) return 0;
      for (let k = 0; k < 3; k++)
        for (let l = 0; l < 3; l++) best = Math.min(best, segmentDistance(p[k], p[(k + 1) % 3], q[l], q[(l + 1) % 3]));
    }
  return best;
}

/** Least distance of a shape to the border of a w × h sheet; negative outside. */
export function borderDistance(s: Float64Array, w: number, h: number): number {
  let best = Infinity;
  for (let i = 0; i < s.length; i += 2) best = Math.min(best, s[i], s[i + 1], w - s[i], h - s[i + 1]);
  return best;
}
