/** A border as it lies on the sheet: segments (ax, ay, bx, by), px, and the box around them. */
export interface PlacedBorder {
  segments: Float64Array;
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** Segments turned, scaled and moved: the border's origin goes to (x, y). */
export function placedBorder(
  edges: Float64Array,
  size: number,
  x: number,
  y: number,
  c: number,
  s: number,
): PlacedBorder {
  const segments = new Float64Array(edges.length);
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < edges.length; i += 2) {
    const px = x + (c * edges[i] - s * edges[i + 1]) * size;
    const py = y + (s * edges[i] + c * edges[i + 1]) * size;
    segments[i] = px;
    segments[i + 1] = py;
    left = Math.min(left, px);
    right = Math.max(right, px);
    top = Math.min(top, py);
    bottom = Math.max(bottom, py);
  }
  return { segments, left, top, right, bottom };
}

/** Segments of a border whose boxes come within `reach` px of a box. */
function nearTo(border: PlacedBorder, box: PlacedBorder, reach: number): number[] {
  const { segments: s } = border;
  const out: number[] = [];
  for (let i = 0; i < s.length; i += 4)
    if (
      Math.min(s[i], s[i + 2]) <= box.right + reach &&
      Math.max(s[i], s[i + 2]) >= box.left - reach &&
      Math.min(s[i + 1], s[i + 3]) <= box.bottom + reach &&
      Math.max(s[i + 1], s[i + 3]) >= box.top - reach
    )
      out.push(i);
  return out;
}

/** Where two borders are nearest: how far apart, px, and the way from the second to the first there (length 1; 0 where they meet). */
export interface Gap {
  width: number;
  x: number;
  y: number;
}

/** Least distance between two borders where it is below `limit`, else `limit`; 0 where they cross. */
export function gapBetween(a: PlacedBorder, b: PlacedBorder, limit: number): number {
  return nearest(a, b, limit)?.width ?? limit;
}

/** The gap between two borders; null where it is not below `limit`. */
export function nearest(a: PlacedBorder, b: PlacedBorder, limit: number): Gap | null {
  if (a.left > b.right + limit || b.left > a.right + limit || a.top > b.bottom + limit || b.top > a.bottom + limit)
    return null;
  const p = a.segments;
  const q = b.segments;
  const theirs = nearTo(b, a, limit);
  let least = limit * limit;
  let reach = limit;
  let gap: Gap | null = null;
  /** Corner (x, y) of one border beside a segment of the other; `way` is 1 where it is the first's. */
  const consider = (x: number, y: number, of: Float64Array, k: number, way: number) => {
    const [ax, ay] = [of[k], of[k + 1]];
    const [dx, dy] = [of[k + 2] - ax, of[k + 3] - ay];
    const l = dx * dx + dy * dy;
    const t = l > 0 ? Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / l)) : 0;
    const [ex, ey] = [x - ax - t * dx, y - ay - t * dy];
    const d = ex * ex + ey * ey;
    if (d >= least) return;
    least = d;
    reach = Math.sqrt(d);
    const scale = reach > 0 ? way / reach : 0;
    gap = { width: reach, x: ex * scale, y: ey * scale };
  };
  for (const i of nearTo(a, b, limit)) {
    const x0 = Math.min(p[i], p[i + 2]) - reach;
    const x1 = Math.max(p[i], p[i + 2]) + reach;
    const y0 = Math.min(p[i + 1], p[i + 3]) - reach;
    const y1 = Math.max(p[i + 1], p[i + 3]) + reach;
    for (const j of theirs) {
      if (
        (q[j] < x0 && q[j + 2] < x0) ||
        (q[j] > x1 && q[j + 2] > x1) ||
        (q[j + 1] < y0 && q[j + 3] < y0) ||
        (q[j + 1] > y1 && q[j + 3] > y1)
      )
        continue;
      if (cross(p, i, q, j)) return { width: 0, x: 0, y: 0 };
      consider(p[i], p[i + 1], q, j, 1);
      consider(p[i + 2], p[i + 3], q, j, 1);
      consider(q[j], q[j + 1], p, i, -1);
      consider(q[j + 2], q[j + 3], p, i, -1);
    }
  }
  return gap;
}

function cross(p: Float64Array, i: number, q: Float64Array, j: number): boolean {
  const side = (o: Float64Array, k: number, x: number, y: number) =>
    (o[k + 2] - o[k]) * (y - o[k + 1]) - (o[k + 3] - o[k + 1]) * (x - o[k]);
  const d1 = side(p, i, q[j], q[j + 1]);
  const d2 = side(p, i, q[j + 2], q[j + 3]);
  if (d1 * d2 >= 0) return false;
  return side(q, j, p[i], p[i + 1]) * side(q, j, p[i + 2], p[i + 3]) < 0;
}
