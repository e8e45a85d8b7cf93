import { BLOCK_BYTES, type Bvh, NODE_BYTES } from './bvh-layout.ts';
import { Sides } from './rays.ts';

const f = Math.fround;
const FAR = f(1.0000007152557373);

/** What a ray met; distances in the hierarchy's own units. */
export interface ReferenceHit {
  t: number;
  triangle: number;
  u: number;
  v: number;
}

/** Steps of all rays so far: they tell what a hierarchy is worth, which hits do not. */
export const steps = { nodes: 0, blocks: 0 };

const away = (d: number): number => (Math.abs(d) < f(1e-18) ? (d < 0 || Object.is(d, -0) ? f(-1e-18) : f(1e-18)) : d);

/**
 * The first hit of a ray, by the same steps and the same roundings as the kernel, so that both agree to the bit; slow, for tests.
 * @param ray ox oy oz from dx dy dz to, in the hierarchy's own units, rounded to f32
 */
export function closestReference(bvh: Bvh, ray: Float32Array, sides: Sides): ReferenceHit {
  const numbers = new Float32Array(bvh.memory.buffer);
  const whole = new Int32Array(bvh.memory.buffer);
  const [ox, oy, oz, from, dx, dy, dz, to] = ray;
  const o = [ox, oy, oz];
  const d = [dx, dy, dz];
  const inverse = d.map((v) => f(1 / f(away(v))));
  const [ax, ay, az] = d.map(Math.abs);
  const kz = ax > ay ? (ax > az ? 0 : 2) : ay > az ? 1 : 2;
  let kx = (kz + 1) % 3;
  let ky = (kx + 1) % 3;
  if (d[kz] < 0) [kx, ky] = [ky, kx];
  const sz = f(1 / d[kz]);
  const sx = f(d[kx] * sz);
  const sy = f(d[ky] * sz);
  const best: ReferenceHit = { t: to, triangle: -1, u: 0, v: 0 };
  const stack: { child: number; near: number }[] = [{ child: 0, near: from }];
  while (stack.length > 0) {
    const { child, near } = stack.pop() as { child: number; near: number };
    if (near > best.t) continue;
    if (child >= 0) {
      steps.nodes++;
      const base = (bvh.nodesAt + child * NODE_BYTES) >> 2;
      const met: { child: number; near: number }[] = [];
      for (let i = 0; i < 8; i++) {
        let n = from;
        let g = Infinity;
        for (let k = 0; k < 3; k++) {
          const low = base + k * 16 + i;
          const back = inverse[k] < 0;
          n = Math.max(n, f(f(numbers[low + (back ? 8 : 0)] - o[k]) * inverse[k]));
          g = Math.min(g, f(f(numbers[low + (back ? 0 : 8)] - o[k]) * inverse[k]));
        }
        g = Math.min(f(g * FAR), best.t);
        if (n <= g) met.push({ child: whole[base + 48 + i], near: n });
      }
      // The nearest comes last.
      met.sort((a, b) => b.near - a.near);
      stack.push(...met);
      continue;
    }
    const first = (child & 0x7fffffff) >> 3;
    for (let b = first; b <= first + (child & 7); b++) {
      steps.blocks++;
      const base = (bvh.blocksAt + b * BLOCK_BYTES) >> 2;
      const limit = best.t;
      for (let k = 0; k < 4; k++) {
        const at = (corner: number, axis: number) => f(numbers[base + corner * 12 + axis * 4 + k] - o[axis]);
        const p = [0, 1, 2].map((c) => {
          const z = at(c, kz);
          return [f(at(c, kx) - f(sx * z)), f(at(c, ky) - f(sy * z)), z];
        });
        const edge = (i: number, j: number) => f(f(p[i][0] * p[j][1]) - f(p[i][1] * p[j][0]));
        const u = edge(2, 1);
        const v = edge(0, 2);
        const w = edge(1, 0);
        const front = u >= 0 && v >= 0 && w >= 0;
        const back = u <= 0 && v <= 0 && w <= 0;
        if (!(sides === Sides.both ? front || back : sides === Sides.front ? front : back)) continue;
        const det = f(f(u + v) + w);
        if (det === 0) continue;
        const t = f(f(sz * f(f(f(u * p[0][2]) + f(v * p[1][2])) + f(w * p[2][2]))) / det);
        if (!(t >= from && t <= limit)) continue;
        const id = whole[base + 36 + k];
        if (t < best.t || (t === best.t && (best.triangle < 0 || id < best.triangle))) {
          const over = f(1 / det);
          best.t = t;
          best.triangle = id;
          best.u = f(v * over);
          best.v = f(w * over);
        }
      }
    }
  }
  return best;
}
