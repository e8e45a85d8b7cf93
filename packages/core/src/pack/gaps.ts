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
export function gapBetween(placedBorder: PlacedBorder, b: PlacedBorder, limit: number): number {
  return nearest(placedBorder, b, limit)?.width ?? limit;
}

/** The gap between two borders; null where it is not below `limit`. */
export function nearest(placedBorder: PlacedBorder, b: PlacedBorder, limit: number): Gap | null {
  if (
    placedBorder.left > b.right + limit ||
    b.left > placedBorder.right + limit ||
    placedBorder.top > b.bottom + limit ||
    b.top > placedBorder.bottom + limit
  )
    return null;
  const segments = placedBorder.segments;
  const q = b.segments;
  const theirs = nearTo(b, placedBorder, limit);
  if (theirs.length === 0) return null;
  let least = limit * limit;
  let reach = limit;
  // The corner of the one (its number in `p`, or behind that in `q`) and the segment of the other.
  let corner = -1;
  let beside = -1;
  for (const i of nearTo(placedBorder, b, limit)) {
    const x0 = Math.min(segments[i], segments[i + 2]) - reach;
    const x1 = Math.max(segments[i], segments[i + 2]) + reach;
    const y0 = Math.min(segments[i + 1], segments[i + 3]) - reach;
    const y1 = Math.max(segments[i + 1], segments[i + 3]) + reach;
    for (const j of theirs) {
      if (
        (q[j] < x0 && q[j + 2] < x0) ||
        (q[j] > x1 && q[j + 2] > x1) ||
        (q[j + 1] < y0 && q[j + 3] < y0) ||
        (q[j + 1] > y1 && q[j + 3] > y1)
      )
        continue;
      if (cross(segments, i, q, j)) return { width: 0, x: 0, y: 0 };
      const was = least;
      for (let k = 0; k < 4; k += 2) {
        const ours = apart(segments[i + k], segments[i + k + 1], q, j);
        if (ours < least) [least, corner, beside] = [ours, i + k, j];
        const their = apart(q[j + k], q[j + k + 1], segments, i);
        if (their < least) [least, corner, beside] = [their, segments.length + j + k, i];
      }
      if (least < was) reach = Math.sqrt(least);
    }
  }
  if (corner < 0) return null;
  if (reach === 0) return { width: 0, x: 0, y: 0 };
  const [x, y] =
    corner < segments.length
      ? parameters(segments[corner], segments[corner + 1], q, beside)
      : parameters(q[corner - segments.length], q[corner - segments.length + 1], segments, beside);
  const length = corner < segments.length ? reach : -reach;
  return { width: reach, x: x / length, y: y / length };
}

/** Where on segment k a point is nearest, as a share of its length. */
function along(x: number, y: number, of: Float64Array, k: number): number {
  const dx = of[k + 2] - of[k];
  const dy = of[k + 3] - of[k + 1];
  const l = dx * dx + dy * dy;
  return l > 0 ? Math.max(0, Math.min(1, ((x - of[k]) * dx + (y - of[k + 1]) * dy) / l)) : 0;
}

/** Squared distance of a point from segment k. */
function apart(x: number, y: number, of: Float64Array, k: number): number {
  const t = along(x, y, of, k);
  const ex = x - of[k] - t * (of[k + 2] - of[k]);
  const ey = y - of[k + 1] - t * (of[k + 3] - of[k + 1]);
  return ex * ex + ey * ey;
}

/** From segment k to a point. */
function parameters(x: number, y: number, of: Float64Array, k: number): [number, number] {
  const t = along(x, y, of, k);
  return [x - of[k] - t * (of[k + 2] - of[k]), y - of[k + 1] - t * (of[k + 3] - of[k + 1])];
}

function cross(p: Float64Array, i: number, q: Float64Array, j: number): boolean {
  const side = (o: Float64Array, k: number, x: number, y: number) =>
    (o[k + 2] - o[k]) * (y - o[k + 1]) - (o[k + 3] - o[k + 1]) * (x - o[k]);
  const d1 = side(p, i, q[j], q[j + 1]);
  const d2 = side(p, i, q[j + 2], q[j + 3]);
  if (d1 * d2 >= 0) return false;
  return side(q, j, p[i], p[i + 1]) * side(q, j, p[i + 2], p[i + 3]) < 0;
}
