import { segmentDistance } from '@wembrel/kernels/field';

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

/** Least distance between two borders where it is below `limit`, else `limit`; 0 where they cross. */
export function gapBetween(a: PlacedBorder, b: PlacedBorder, limit: number): number {
  if (a.left > b.right + limit || b.left > a.right + limit || a.top > b.bottom + limit || b.top > a.bottom + limit)
    return limit;
  const p = a.segments;
  const q = b.segments;
  const theirs = nearTo(b, a, limit);
  let least = limit;
  for (const i of nearTo(a, b, limit)) {
    const x0 = Math.min(p[i], p[i + 2]) - least;
    const x1 = Math.max(p[i], p[i + 2]) + least;
    const y0 = Math.min(p[i + 1], p[i + 3]) - least;
    const y1 = Math.max(p[i + 1], p[i + 3]) + least;
    for (const j of theirs) {
      if (
        (q[j] < x0 && q[j + 2] < x0) ||
        (q[j] > x1 && q[j + 2] > x1) ||
        (q[j + 1] < y0 && q[j + 3] < y0) ||
        (q[j + 1] > y1 && q[j + 3] > y1)
      )
        continue;
      if (cross(p, i, q, j)) return 0;
      least = Math.min(
        least,
        segmentDistance(p[i], p[i + 1], q[j], q[j + 1], q[j + 2], q[j + 3]),
        segmentDistance(p[i + 2], p[i + 3], q[j], q[j + 1], q[j + 2], q[j + 3]),
        segmentDistance(q[j], q[j + 1], p[i], p[i + 1], p[i + 2], p[i + 3]),
        segmentDistance(q[j + 2], q[j + 3], p[i], p[i + 1], p[i + 2], p[i + 3]),
      );
    }
  }
  return least;
}

function cross(p: Float64Array, i: number, q: Float64Array, j: number): boolean {
  const side = (o: Float64Array, k: number, x: number, y: number) =>
    (o[k + 2] - o[k]) * (y - o[k + 1]) - (o[k + 3] - o[k + 1]) * (x - o[k]);
  const d1 = side(p, i, q[j], q[j + 1]);
  const d2 = side(p, i, q[j + 2], q[j + 3]);
  if (d1 * d2 >= 0) return false;
  return side(q, j, p[i], p[i + 1]) * side(q, j, p[i + 2], p[i + 3]) < 0;
}

/**
 * By how much a layout falls short of its margin, px: between borders, and half of it to the sheet's border. 0 when it keeps it.
 * @param skip pairs that need not keep it (both stay where they are)
 */
export function shortfall(
  borders: readonly PlacedBorder[],
  width: number,
  height: number,
  margin: number,
  skip: (i: number) => boolean,
): number {
  let worst = 0;
  borders.forEach((b, i) => {
    if (skip(i)) return;
    worst = Math.max(worst, margin / 2 - Math.min(b.left, b.top, width - b.right, height - b.bottom));
  });
  const order = borders.map((_, i) => i).sort((a, b) => borders[a].left - borders[b].left || a - b);
  for (let k = 0; k < order.length; k++) {
    const a = borders[order[k]];
    for (let m = k + 1; m < order.length; m++) {
      const b = borders[order[m]];
      if (b.left > a.right + margin) break;
      if (skip(order[k]) && skip(order[m])) continue;
      worst = Math.max(worst, margin - gapBetween(a, b, margin));
    }
  }
  return worst;
}
