import TinyQueue from 'tinyqueue';
import { compacted, type LightMesh } from '../light-mesh.ts';
import { solve3 } from './fit.ts';
import { ringsOf, triangleNormal } from './rings.ts';

/** Numbers of a quadric: the symmetric 4 × 4 matrix, and its weight. */
const Q = 11;
/** A triangle may turn no farther than this (cosine) in one collapse. */
const TURN = 0.2;
/** Least quality of a triangle: twice its area by the square of its longest side; better ones may get as bad as they were. */
const LEAST_QUALITY = 0.02;

interface Candidate {
  /** Sum of squared distances by area, by which the cheapest is chosen. */
  cost: number;
  /** Their root mean square. */
  metres: number;
  a: number;
  b: number;
  /** Versions of both ends when the cost was found. */
  stamp: number;
  at: readonly [number, number, number];
}

export interface CollapseGoal {
  /** Triangles at the most. */
  triangles?: number;
  /** No edge is collapsed whose root mean square distance to the planes that are given up is greater, m. */
  metres?: number;
  /** @throws to stop */
  checkpoint?: () => void;
}

/**
 * Simplifies a closed manifold by collapsing edges, the cheapest first (quadric errors, Garland & Heckbert 1997). Each collapse is checked before: both
 * ends share exactly two neighbours (link condition, Dey et al. 1999), no triangle turns over and none becomes a sliver. So the result is closed and
 * manifold, with the same genus.
 */
export function collapsed(mesh: LightMesh, goal: CollapseGoal): LightMesh {
  return new Collapsing(mesh).run(goal);
}

class Collapsing {
  private readonly positions: Float64Array;
  private readonly indices: Uint32Array;
  private readonly alive: Uint8Array;
  /** Triangles around each vertex. */
  private readonly rings: number[][];
  private readonly quadrics: Float64Array;
  private readonly version: Uint32Array;
  private readonly queue = new TinyQueue<Candidate>([], (x, y) => x.cost - y.cost || x.a - y.a || x.b - y.b);
  /** Which look around a vertex found another one last. */
  private readonly marks: Uint32Array;
  private lastMark = 0;
  private readonly before = [0, 0, 0];
  private readonly after = [0, 0, 0];
  private readonly sum = new Float64Array(Q);
  private left: number;

  constructor(mesh: LightMesh) {
    this.positions = Float64Array.from(mesh.positions);
    this.indices = mesh.indices.slice();
    this.left = mesh.indices.length / 3;
    this.alive = new Uint8Array(this.left).fill(1);
    const { from, list } = ringsOf(mesh);
    const count = mesh.positions.length / 3;
    this.rings = Array.from({ length: count }, (_, v) => [...list.subarray(from[v], from[v + 1])]);
    this.quadrics = new Float64Array(count * Q);
    this.version = new Uint32Array(count);
    this.marks = new Uint32Array(count);
    for (let t = 0; t < this.left; t++) this.addPlane(t);
    for (let i = 0; i < this.indices.length; i++) {
      const a = this.indices[i];
      const b = this.indices[i % 3 === 2 ? i - 2 : i + 1];
      if (a < b) this.push(a, b);
    }
  }

  run({ triangles = 0, metres = Infinity, checkpoint }: CollapseGoal): LightMesh {
    let looked = 0;
    while (this.left > Math.max(4, triangles)) {
      if ((++looked & 4095) === 0) checkpoint?.();
      const best = this.queue.pop();
      if (!best) break;
      const { a, b, stamp, at } = best;
      if (stamp !== this.version[a] + this.version[b] || this.rings[a].length === 0 || this.rings[b].length === 0)
        continue;
      if (best.metres <= metres && this.mayJoin(a, b, at)) this.join(a, b, at);
    }
    const kept: number[] = [];
    for (let t = 0; t < this.alive.length; t++)
      if (this.alive[t]) kept.push(...this.indices.subarray(t * 3, t * 3 + 3));
    return compacted({ positions: Float32Array.from(this.positions), indices: Uint32Array.from(kept) });
  }

  private corners(t: number): [number, number, number] {
    return [this.indices[t * 3], this.indices[t * 3 + 1], this.indices[t * 3 + 2]];
  }

  private addPlane(t: number): void {
    const n = [0, 0, 0];
    const corners = this.corners(t);
    const area = triangleNormal(this.positions, corners, -1, n, n);
    if (!(area > 0)) return;
    const [x, y, z] = n.map((v) => v / area);
    const o = corners[0] * 3;
    const d = -(x * this.positions[o] + y * this.positions[o + 1] + z * this.positions[o + 2]);
    const row = [x * x, x * y, x * z, x * d, y * y, y * z, y * d, z * z, z * d, d * d, 1];
    for (const v of corners) for (let k = 0; k < Q; k++) this.quadrics[v * Q + k] += (area / 2) * row[k];
  }

  private push(a: number, b: number): void {
    const sum = this.sum;
    for (let k = 0; k < Q; k++) sum[k] = this.quadrics[a * Q + k] + this.quadrics[b * Q + k];
    const positions = this.positions;
    const end = (v: number) =>
      [positions[v * 3], positions[v * 3 + 1], positions[v * 3 + 2]] as [number, number, number];
    const [from, to] = [end(a), end(b)];
    const middle = [0, 1, 2].map((k) => (from[k] + to[k]) / 2) as [number, number, number];
    let at = middle;
    let cost = errorAt(sum, at);
    const best = solve3(
      [sum[0], sum[1], sum[2], sum[1], sum[4], sum[5], sum[2], sum[5], sum[7]],
      [-sum[3], -sum[6], -sum[8]],
    );
    const length = Math.hypot(to[0] - from[0], to[1] - from[1], to[2] - from[2]);
    const near = (x: readonly number[]) =>
      Math.hypot(x[0] - middle[0], x[1] - middle[1], x[2] - middle[2]) <= 1.5 * length;
    for (const other of best && near(best) ? [best, from, to] : [from, to]) {
      const error = errorAt(sum, other);
      if (error >= cost) continue;
      cost = error;
      at = other;
    }
    const [low, high] = a < b ? [a, b] : [b, a];
    cost = Math.max(0, cost);
    const metres = Math.sqrt(cost / Math.max(sum[10], 1e-300));
    // A hair for the length, so that flat regions are thinned out evenly.
    this.queue.push({
      cost: cost + length ** 4 * 1e-9,
      metres,
      a: low,
      b: high,
      stamp: this.version[a] + this.version[b],
      at,
    });
  }

  /** Marks the neighbours of a vertex. @param beside how many of them bear this mark already is counted too */
  private mark(v: number, beside = 0): { count: number; common: number } {
    const mark = ++this.lastMark;
    let [count, common] = [0, 0];
    for (const t of this.rings[v])
      for (let k = 0; k < 3; k++) {
        const w = this.indices[t * 3 + k];
        if (w === v || this.marks[w] === mark) continue;
        if (this.marks[w] === beside) common++;
        this.marks[w] = mark;
        count++;
      }
    return { count, common };
  }

  private mayJoin(a: number, b: number, at: readonly number[]): boolean {
    const around = this.mark(a);
    const first = this.lastMark;
    if (this.marks[b] !== first) return false;
    const beyond = this.mark(b, first);
    // Both ends of a tetrahedron share two neighbours as well, and all of it would go.
    if (beyond.common !== 2 || around.count + beyond.count - beyond.common <= 4) return false;
    return this.keepsShape(a, b, at) && this.keepsShape(b, a, at);
  }

  /** Triangles of one end that stay: none turns over, none becomes a sliver that was none. */
  private keepsShape(end: number, other: number, at: readonly number[]): boolean {
    const { before, after } = this;
    for (const t of this.rings[end]) {
      const corners = this.corners(t);
      if (corners[0] === other || corners[1] === other || corners[2] === other) continue;
      const was = triangleNormal(this.positions, corners, -1, at, before);
      const is = triangleNormal(this.positions, corners, end, at, after);
      if (before[0] * after[0] + before[1] * after[1] + before[2] * after[2] < TURN * was * is) return false;
      const quality = is / this.longest(corners, end, at);
      if (!(is > 0) || (quality < LEAST_QUALITY && quality < was / this.longest(corners, -1, at))) return false;
    }
    return true;
  }

  /** Square of the longest side. */
  private longest(corners: readonly number[], moved: number, at: readonly number[]): number {
    const positions = this.positions;
    const place = (v: number, k: number) => (v === moved ? at[k] : positions[v * 3 + k]);
    let most = 0;
    for (let i = 0; i < 3; i++) {
      const [v, w] = [corners[i], corners[(i + 1) % 3]];
      most = Math.max(
        most,
        (place(v, 0) - place(w, 0)) ** 2 + (place(v, 1) - place(w, 1)) ** 2 + (place(v, 2) - place(w, 2)) ** 2,
      );
    }
    return most;
  }

  private join(a: number, b: number, at: readonly number[]): void {
    this.positions.set(at, a * 3);
    for (let k = 0; k < Q; k++) this.quadrics[a * Q + k] += this.quadrics[b * Q + k];
    const kept: number[] = [];
    for (const t of this.rings[a]) {
      if (this.corners(t).includes(b)) this.remove(t, a, b);
      else kept.push(t);
    }
    for (const t of this.rings[b]) {
      if (!this.alive[t]) continue;
      for (let k = 0; k < 3; k++) if (this.indices[t * 3 + k] === b) this.indices[t * 3 + k] = a;
      kept.push(t);
    }
    this.rings[a] = kept;
    this.rings[b] = [];
    this.version[a]++;
    this.version[b]++;
    this.mark(a);
    const mark = this.lastMark;
    for (const t of kept)
      for (let k = 0; k < 3; k++) {
        const v = this.indices[t * 3 + k];
        if (v === a || this.marks[v] !== mark) continue;
        this.marks[v] = 0;
        this.push(a, v);
      }
  }

  private remove(t: number, a: number, b: number): void {
    this.alive[t] = 0;
    this.left--;
    for (const v of this.corners(t))
      if (v !== a && v !== b) this.rings[v] = this.rings[v].filter((other) => other !== t);
  }
}

/** Sum of squared distances to the planes of a quadric, by their areas. */
function errorAt(q: Float64Array, [x, y, z]: readonly [number, number, number]): number {
  return (
    q[0] * x * x +
    2 * q[1] * x * y +
    2 * q[2] * x * z +
    2 * q[3] * x +
    q[4] * y * y +
    2 * q[5] * y * z +
    2 * q[6] * y +
    q[7] * z * z +
    2 * q[8] * z +
    q[9]
  );
}
