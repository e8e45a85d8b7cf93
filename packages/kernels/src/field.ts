import { fieldLoops } from './field-loops.ts';

/**
 * Signed distance fields of flat shapes: what packing asks of a shape again and again is how far a point is from it and which way is out.
 */

/** A shape's border and its distance field. Lengths in px of the shape, about the middle of its box. */
export interface Field {
  /** Upper left node, and the distance between nodes. */
  left: number;
  top: number;
  step: number;
  columns: number;
  rows: number;
  /** Signed distance at each node, negative inside. */
  distance: Float32Array;
  /** Points on the border by which it is tested against other fields, (x, y) pairs, and how much border each stands for. */
  samples: Float64Array;
  spacing: number;
  /** By how much the border was simplified, px. */
  error: number;
  /** Half of its box. */
  halfWidth: number;
  halfHeight: number;
  area: number;
}

/**
 * Edges that have triangles on one side only, as (ax, ay, bx, by): the border, and folds. Edges count as the same when their ends are,
 * rounded to 1/1024 px; those without length are left out.
 * @param shape triangles, six numbers each
 */
export function borderEdges(shape: Float64Array): Float64Array {
  const points = new Map<number, number>();
  const number = (x: number, y: number) => {
    const key = pointKey(x, y);
    const known = points.get(key);
    if (known !== undefined) return known;
    points.set(key, points.size);
    return points.size - 1;
  };
  // For each edge where it was found first, and on which sides of it triangles lie.
  const edges = new Map<number, { at: number; left: number; right: number }>();
  for (let i = 0; i < shape.length; i += 6) {
    const v = [0, 2, 4].map((k) => number(shape[i + k], shape[i + k + 1]));
    const turn =
      (shape[i + 2] - shape[i]) * (shape[i + 5] - shape[i + 1]) -
      (shape[i + 4] - shape[i]) * (shape[i + 3] - shape[i + 1]);
    for (let k = 0; k < 3; k++) {
      const a = v[k];
      const b = v[(k + 1) % 3];
      if (a === b) continue;
      const key = a < b ? a * 67108864 + b : b * 67108864 + a;
      let edge = edges.get(key);
      if (!edge) {
        edge = { at: i + k * 2, left: 0, right: 0 };
        edges.set(key, edge);
      }
      if (turn === 0) continue;
      if (turn > 0 === a < b) edge.left++;
      else edge.right++;
    }
  }
  const out: number[] = [];
  for (const { at, left, right } of edges.values()) {
    if (left > 0 && right > 0) continue;
    const first = at - (at % 6);
    const next = first + ((at - first + 2) % 6);
    out.push(shape[at], shape[at + 1], shape[next], shape[next + 1]);
  }
  return out.length > 0 ? Float64Array.from(out) : allEdges(shape);
}

function allEdges(shape: Float64Array): Float64Array {
  const out: number[] = [];
  for (let i = 0; i < shape.length; i += 6)
    for (let k = 0; k < 3; k++) {
      const j = i + ((k * 2 + 2) % 6);
      out.push(shape[i + k * 2], shape[i + k * 2 + 1], shape[j], shape[j + 1]);
    }
  return Float64Array.from(out);
}

/** One number for all points that are the same when rounded to 1/1024 px; up to 32 000 px from the origin. */
function pointKey(x: number, y: number): number {
  return (Math.round(x * 1024) + 33554432) * 67108864 + Math.round(y * 1024) + 33554432;
}

/** Up to so many edges, the next one is found by looking at all. */
const FEW_EDGES = 48;

/** Edges chained into loops and open lines; a loop ends where it began. */
function chains(edges: Float64Array): number[][] {
  const count = edges.length / 4;
  const starts = new Float64Array(count);
  for (let e = 0; e < count; e++) starts[e] = pointKey(edges[4 * e], edges[4 * e + 1]);
  const used = new Uint8Array(count);
  const next = count > FEW_EDGES ? followers(starts, used) : (key: number) => unused(starts, used, key);
  const out: number[][] = [];
  for (let e = 0; e < count; e++) {
    if (used[e]) continue;
    const chain = [edges[4 * e], edges[4 * e + 1]];
    for (let at = e; at >= 0; ) {
      used[at] = 1;
      const [x, y] = [edges[4 * at + 2], edges[4 * at + 3]];
      chain.push(x, y);
      at = next(pointKey(x, y));
    }
    out.push(chain);
  }
  return out;
}

/** The first edge that starts at a point and is not used yet; −1 when there is none. */
function unused(starts: Float64Array, used: Uint8Array, key: number): number {
  for (let e = 0; e < starts.length; e++) if (starts[e] === key && !used[e]) return e;
  return -1;
}

/** The same from a table. */
function followers(starts: Float64Array, used: Uint8Array): (key: number) => number {
  const from = new Map<number, number[]>();
  starts.forEach((k, e) => {
    const list = from.get(k);
    if (list) list.push(e);
    else from.set(k, [e]);
  });
  return (key) => from.get(key)?.find((e) => !used[e]) ?? -1;
}

/** Leaves out points nearer than `tolerance` to the line of those that stay (Douglas and Peucker 1973). @returns the greatest distance */
function simplify(chain: number[], tolerance: number): { points: number[]; error: number } {
  const n = chain.length / 2;
  const keep = new Uint8Array(n);
  keep[0] = 1;
  keep[n - 1] = 1;
  const closed = chain[0] === chain[2 * n - 2] && chain[1] === chain[2 * n - 1];
  const stack: [number, number][] = [];
  let error = 0;
  if (closed && n > 3) {
    let far = 0;
    let best = -1;
    for (let i = 1; i < n - 1; i++) {
      const [dx, dy] = [chain[2 * i] - chain[0], chain[2 * i + 1] - chain[1]];
      const d = dx * dx + dy * dy;
      if (d > best) {
        best = d;
        far = i;
      }
    }
    keep[far] = 1;
    stack.push([0, far], [far, n - 1]);
  } else stack.push([0, n - 1]);
  for (let span = stack.pop(); span; span = stack.pop()) {
    const [a, b] = span;
    let worst = -1;
    let at = -1;
    for (let i = a + 1; i < b; i++) {
      const d = segmentDistance(
        chain[2 * i],
        chain[2 * i + 1],
        chain[2 * a],
        chain[2 * a + 1],
        chain[2 * b],
        chain[2 * b + 1],
      );
      if (d > worst) {
        worst = d;
        at = i;
      }
    }
    if (at < 0) continue;
    if (worst > tolerance) {
      keep[at] = 1;
      stack.push([a, at], [at, b]);
    } else error = Math.max(error, worst);
  }
  const points: number[] = [];
  for (let i = 0; i < n; i++) if (keep[i]) points.push(chain[2 * i], chain[2 * i + 1]);
  return { points, error };
}

/** Length of all segments together. */
export function lengthOf(segments: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < segments.length; i += 4) {
    const [dx, dy] = [segments[i + 2] - segments[i], segments[i + 3] - segments[i + 1]];
    sum += Math.sqrt(dx * dx + dy * dy);
  }
  return sum;
}

/** Distance of (x, y) to the segment from (ax, ay) to (bx, by). */
export function segmentDistance(x: number, y: number, ax: number, ay: number, bx: number, by: number): number {
  const dx = bx - ax;
  const dy = by - ay;
  const l = dx * dx + dy * dy;
  let t = l > 0 ? ((x - ax) * dx + (y - ay) * dy) / l : 0;
  t = t < 0 ? 0 : t > 1 ? 1 : t;
  const ex = x - ax - t * dx;
  const ey = y - ay - t * dy;
  return Math.sqrt(ex * ex + ey * ey);
}

/**
 * The field of a shape. Distances are those to the simplified border within `band` of it, and not less than that beyond.
 * @param shape triangles, six numbers each, px about the middle of its box @param edges its border, as of `borderEdges`
 * @param step px between nodes; @param band px outside the shape up to which the field reaches
 * @param spacing greatest px between samples; @param tolerance px by which the border may be simplified; @param loops what computes the distances
 */
export function distanceField(
  shape: Float64Array,
  edges: Float64Array,
  { step, band, spacing, tolerance }: { step: number; band: number; spacing: number; tolerance: number },
  loops = fieldLoops,
): Field {
  let halfWidth = 0;
  let halfHeight = 0;
  let area = 0;
  for (let i = 0; i < shape.length; i += 2) {
    halfWidth = Math.max(halfWidth, Math.abs(shape[i]));
    halfHeight = Math.max(halfHeight, Math.abs(shape[i + 1]));
  }
  for (let i = 0; i < shape.length; i += 6)
    area +=
      Math.abs(
        (shape[i + 2] - shape[i]) * (shape[i + 5] - shape[i + 1]) -
          (shape[i + 4] - shape[i]) * (shape[i + 3] - shape[i + 1]),
      ) / 2;
  // Simplifying never adds any.
  const room = new Float64Array(edges.length);
  let used = 0;
  let error = 0;
  for (const chain of chains(edges)) {
    const s = simplify(chain, tolerance);
    error = Math.max(error, s.error);
    for (let i = 0; i + 3 < s.points.length; i += 2, used += 4)
      for (let k = 0; k < 4; k++) room[used + k] = s.points[i + k];
  }
  const segments = room.subarray(0, used);
  const left = -halfWidth - band;
  const top = -halfHeight - band;
  const columns = Math.ceil((2 * (halfWidth + band)) / step) + 2;
  const rows = Math.ceil((2 * (halfHeight + band)) / step) + 2;
  // No node is further away: the last ones lie up to two steps beyond the band.
  const far = 2 * band + 4 * step + halfWidth + halfHeight;
  const distance = loops({ left, top, step, columns, rows, far }, segments, shape, band + 2 * step);
  const length = lengthOf(segments);
  const samples: number[] = [];
  const apart = Math.max(spacing, length / 96);
  for (let s = 0; s < segments.length; s += 4) {
    const dx = segments[s + 2] - segments[s];
    const dy = segments[s + 3] - segments[s + 1];
    const n = Math.max(1, Math.ceil(Math.sqrt(dx * dx + dy * dy) / apart - 1e-9));
    for (let k = 0; k < n; k++) samples.push(segments[s] + (dx * k) / n, segments[s + 1] + (dy * k) / n);
  }
  const count = samples.length / 2;
  return {
    left,
    top,
    step,
    columns,
    rows,
    distance,
    samples: spreadOrder(samples),
    spacing: length / Math.max(1, count),
    error,
    halfWidth,
    halfHeight,
    area,
  };
}

/** Samples in an order that goes around the border in large steps first, so that a few of them already tell. */
function spreadOrder(samples: number[]): Float64Array {
  const n = samples.length / 2;
  const out = new Float64Array(samples.length);
  let at = 0;
  let bits = 0;
  while (1 << bits < n) bits++;
  for (let i = 0; i < 1 << bits; i++) {
    let r = 0;
    for (let b = 0; b < bits; b++) if (i & (1 << b)) r |= 1 << (bits - 1 - b);
    if (r >= n) continue;
    out[at++] = samples[2 * r];
    out[at++] = samples[2 * r + 1];
  }
  return out;
}
