/** A corner of a piece of a triangle. */
export interface CutPoint {
  id: number;
  /** Weights of the triangle's three corners. */
  w: readonly [number, number, number];
  /** Place in space. */
  at: readonly [number, number, number];
  /** Texture coordinates, in repeats. */
  st: [number, number];
}

export type Polygon = CutPoint[];

/** Makes points of one triangle, and those on chords once for the pieces on both sides. */
export class PointMaker {
  private next = 0;
  private readonly chords = new Map<string, CutPoint>();

  make(w: CutPoint['w'], at: CutPoint['at'], st: [number, number]): CutPoint {
    return { id: this.next++, w, at, st };
  }

  /** The point of a chord at which `axis` has the value k. */
  between(cutPoint: CutPoint, q: CutPoint, axis: 0 | 1, k: number): CutPoint {
    if (cutPoint.id > q.id) return this.between(q, cutPoint, axis, k);
    const key = `${cutPoint.id} ${q.id} ${axis} ${k}`;
    const known = this.chords.get(key);
    if (known) return known;
    const t = (k - cutPoint.st[axis]) / (q.st[axis] - cutPoint.st[axis]);
    const mix = (a: number, b: number) => a + (b - a) * t;
    const st: [number, number] = [mix(cutPoint.st[0], q.st[0]), mix(cutPoint.st[1], q.st[1])];
    st[axis] = k;
    const made = this.make(
      [mix(cutPoint.w[0], q.w[0]), mix(cutPoint.w[1], q.w[1]), mix(cutPoint.w[2], q.w[2])],
      [mix(cutPoint.at[0], q.at[0]), mix(cutPoint.at[1], q.at[1]), mix(cutPoint.at[2], q.at[2])],
      st,
    );
    this.chords.set(key, made);
    return made;
  }
}

function splitAt(polygon: Polygon, axis: 0 | 1, k: number, points: PointMaker): [below: Polygon, above: Polygon] {
  const below: Polygon = [];
  const above: Polygon = [];
  polygon.forEach((cutPoint, i) => {
    const q = polygon[i + 1 === polygon.length ? 0 : i + 1];
    if (cutPoint.st[axis] <= k) below.push(cutPoint);
    if (cutPoint.st[axis] >= k) above.push(cutPoint);
    if (cutPoint.st[axis] < k !== q.st[axis] < k && cutPoint.st[axis] !== k && q.st[axis] !== k) {
      const m = points.between(cutPoint, q, axis, k);
      below.push(m);
      above.push(m);
    }
  });
  return [below, above];
}

/** Pieces of a convex polygon between the lines at whole multiples of `period` along one axis. */
export function splitAtRepeats(polygon: Polygon, axis: 0 | 1, period: number, points: PointMaker): Polygon[] {
  const values = polygon.map((cutPoint) => cutPoint.st[axis]);
  const first = Math.floor(Math.min(...values) / period) + 1;
  const last = Math.ceil(Math.max(...values) / period) - 1;
  const out: Polygon[] = [];
  let rest = polygon;
  for (let k = first; k <= last; k++) {
    const [below, above] = splitAt(rest, axis, k * period, points);
    out.push(below);
    rest = above;
  }
  out.push(rest);
  return out.filter((polygon) => polygon.length >= 3 && areaOf(polygon) > NO_AREA);
}

/** In shares of the triangle. */
const NO_AREA = 1e-12;

function earArea(cutPoint: CutPoint, q: CutPoint, r: CutPoint): number {
  return (q.w[1] - cutPoint.w[1]) * (r.w[2] - cutPoint.w[2]) - (r.w[1] - cutPoint.w[1]) * (q.w[2] - cutPoint.w[2]);
}

/** Area of a piece as a share of its triangle. */
function areaOf(polygon: Polygon): number {
  let sum = 0;
  for (let i = 1; i + 1 < polygon.length; i++) sum += earArea(polygon[0], polygon[i], polygon[i + 1]);
  return sum;
}

/** How far a triangle is from a needle: its area in space over the squares of its sides. */
function shapeliness(cutPoint: CutPoint, q: CutPoint, r: CutPoint): number {
  const side = (cutPoint: CutPoint, b: CutPoint) =>
    (cutPoint.at[0] - b.at[0]) ** 2 + (cutPoint.at[1] - b.at[1]) ** 2 + (cutPoint.at[2] - b.at[2]) ** 2;
  const [ux, uy, uz] = [q.at[0] - cutPoint.at[0], q.at[1] - cutPoint.at[1], q.at[2] - cutPoint.at[2]];
  const [vx, vy, vz] = [r.at[0] - cutPoint.at[0], r.at[1] - cutPoint.at[1], r.at[2] - cutPoint.at[2]];
  const cross = Math.sqrt((uy * vz - uz * vy) ** 2 + (uz * vx - ux * vz) ** 2 + (ux * vy - uy * vx) ** 2);
  return cross / Math.max(side(cutPoint, q) + side(q, r) + side(r, cutPoint), 1e-30);
}

/**
 * Triangles of a convex polygon, points on straight sides included: ears are clipped, the best-shaped first, and never one that would
 * leave a rest without area.
 */
export function triangulate(polygon: Polygon): [CutPoint, CutPoint, CutPoint][] {
  const out: [CutPoint, CutPoint, CutPoint][] = [];
  const rest = [...polygon];
  let area = areaOf(rest);
  while (rest.length > 3) {
    let best = -1;
    let bestShape = -1;
    let bestArea = 0;
    for (let i = 0; i < rest.length; i++) {
      const [cutPoint, q, r] = [rest.at(i - 1) as CutPoint, rest[i], rest[(i + 1) % rest.length]];
      const ear = earArea(cutPoint, q, r);
      if (ear <= NO_AREA || area - ear <= NO_AREA) continue;
      const shape = shapeliness(cutPoint, q, r);
      if (shape > bestShape) [best, bestShape, bestArea] = [i, shape, ear];
    }
    if (best < 0) break;
    out.push([rest.at(best - 1) as CutPoint, rest[best], rest[(best + 1) % rest.length]]);
    rest.splice(best, 1);
    area -= bestArea;
  }
  // What cannot be cut further has no area beyond one triangle.
  for (let i = 1; i + 1 < rest.length; i++)
    if (earArea(rest[0], rest[i], rest[i + 1]) > 0) out.push([rest[0], rest[i], rest[i + 1]]);
  return out;
}
