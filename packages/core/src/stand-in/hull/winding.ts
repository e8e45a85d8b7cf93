import type { LightMesh } from '../light-mesh.ts';

/** Triangles in a leaf at the most. */
const LEAF = 4;
/** From so many times its radius on, a cluster counts as one dipole. */
const FAR = 2;
/** Numbers of a cluster: middle, summed normal, radius. */
const NUMBERS = 7;

/**
 * Generalised winding numbers of a surface that need not be closed: about 1 within, 0 outside, in between across holes (Jacobson et al. 2013), quickly, since
 * far clusters of triangles count as one dipole (Barill et al. 2018, first order).
 */
export class WindingNumber {
  private readonly order: Uint32Array;
  private readonly numbers: Float64Array;
  /** First triangle and the one after the last of each cluster, and its right child; 0 for a leaf. The left child follows. */
  private readonly spans: Uint32Array;
  private clusters = 0;
  private readonly stack = new Uint32Array(256);

  constructor(private readonly mesh: LightMesh) {
    const count = mesh.indices.length / 3;
    this.order = Uint32Array.from({ length: count }, (_, i) => i);
    const most = Math.max(1, 2 * Math.ceil(count / (LEAF / 2)));
    this.numbers = new Float64Array(most * NUMBERS);
    this.spans = new Uint32Array(most * 3);
    if (count > 0) this.build(0, count, middles(mesh));
  }

  private build(from: number, to: number, centres: Float64Array): number {
    const cluster = this.clusters++;
    this.spans.set([from, to, 0], cluster * 3);
    this.summarise(cluster, from, to);
    if (to - from <= LEAF) return cluster;
    const axis = this.longestAxis(from, to, centres);
    const part = this.order.subarray(from, to).sort((a, b) => centres[a * 3 + axis] - centres[b * 3 + axis] || a - b);
    const half = from + (part.length >> 1);
    this.build(from, half, centres);
    this.spans[cluster * 3 + 2] = this.build(half, to, centres);
    return cluster;
  }

  private longestAxis(from: number, to: number, centres: Float64Array): number {
    const low = [Infinity, Infinity, Infinity];
    const high = [-Infinity, -Infinity, -Infinity];
    for (let i = from; i < to; i++)
      for (let k = 0; k < 3; k++) {
        const v = centres[this.order[i] * 3 + k];
        low[k] = Math.min(low[k], v);
        high[k] = Math.max(high[k], v);
      }
    const sides = [0, 1, 2].map((k) => high[k] - low[k]);
    return sides.indexOf(Math.max(...sides));
  }

  private summarise(cluster: number, from: number, to: number): void {
    const { positions: p, indices } = this.mesh;
    const numbers = this.numbers;
    const o = cluster * NUMBERS;
    let weight = 0;
    for (let i = from; i < to; i++) {
      const [a, b, c] = [0, 1, 2].map((k) => indices[this.order[i] * 3 + k] * 3);
      const normal = crossAt(p, a, b, c);
      const area = Math.hypot(...normal);
      weight += area;
      for (let k = 0; k < 3; k++) {
        numbers[o + k] += (area * (p[a + k] + p[b + k] + p[c + k])) / 3;
        numbers[o + 3 + k] += normal[k] / 2;
      }
    }
    for (let k = 0; k < 3; k++)
      numbers[o + k] = weight > 0 ? numbers[o + k] / weight : p[indices[this.order[from] * 3] * 3 + k];
    let radius = 0;
    for (let i = from; i < to; i++)
      for (let k = 0; k < 3; k++) {
        const v = indices[this.order[i] * 3 + k] * 3;
        radius = Math.max(radius, Math.hypot(p[v] - numbers[o], p[v + 1] - numbers[o + 1], p[v + 2] - numbers[o + 2]));
      }
    numbers[o + 6] = radius;
  }

  /** The winding number at a point, whichever way the surface is turned. */
  at(x: number, y: number, z: number): number {
    if (this.clusters === 0) return 0;
    const { numbers: n, spans, stack, order } = this;
    let sum = 0;
    let top = 1;
    stack[0] = 0;
    while (top > 0) {
      const cluster = stack[--top];
      const o = cluster * NUMBERS;
      const [dx, dy, dz] = [n[o] - x, n[o + 1] - y, n[o + 2] - z];
      const d2 = dx * dx + dy * dy + dz * dz;
      const limit = n[o + 6] * FAR;
      if (d2 > limit * limit) {
        sum += (n[o + 3] * dx + n[o + 4] * dy + n[o + 5] * dz) / (d2 * Math.sqrt(d2));
        continue;
      }
      const right = spans[cluster * 3 + 2];
      if (right > 0) {
        stack[top++] = right;
        stack[top++] = cluster + 1;
        continue;
      }
      for (let i = spans[cluster * 3]; i < spans[cluster * 3 + 1]; i++) sum += this.solidAngle(order[i], x, y, z);
    }
    return sum / (4 * Math.PI);
  }

  /** Van Oosterom & Strackee 1983. */
  private solidAngle(t: number, x: number, y: number, z: number): number {
    const { positions: p, indices } = this.mesh;
    const [a, b, c] = [indices[t * 3] * 3, indices[t * 3 + 1] * 3, indices[t * 3 + 2] * 3];
    const [ax, ay, az] = [p[a] - x, p[a + 1] - y, p[a + 2] - z];
    const [bx, by, bz] = [p[b] - x, p[b + 1] - y, p[b + 2] - z];
    const [cx, cy, cz] = [p[c] - x, p[c + 1] - y, p[c + 2] - z];
    const la = Math.sqrt(ax * ax + ay * ay + az * az);
    const lb = Math.sqrt(bx * bx + by * by + bz * bz);
    const lc = Math.sqrt(cx * cx + cy * cy + cz * cz);
    const volume = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
    const rest =
      la * lb * lc +
      (ax * bx + ay * by + az * bz) * lc +
      (bx * cx + by * cy + bz * cz) * la +
      (cx * ax + cy * ay + cz * az) * lb;
    return 2 * Math.atan2(volume, rest);
  }
}

function middles({ positions: p, indices }: LightMesh): Float64Array {
  const out = new Float64Array(indices.length);
  for (let t = 0; t < indices.length; t += 3)
    for (let k = 0; k < 3; k++)
      out[t + k] = (p[indices[t] * 3 + k] + p[indices[t + 1] * 3 + k] + p[indices[t + 2] * 3 + k]) / 3;
  return out;
}

function crossAt(p: Float32Array, a: number, b: number, c: number): [number, number, number] {
  const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
  const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
}
