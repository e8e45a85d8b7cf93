import { BLOCK_BYTES, type Bvh, NODE_BYTES } from './bvh-layout.ts';

/** Nearest points of a hierarchy's surface, in world coordinates; one object a worker. Plain TypeScript over the kernel's memory. */
export class ClosestPoint {
  private readonly numbers: Float32Array;
  private readonly whole: Int32Array;
  private readonly stack = new Int32Array(4096);
  private readonly stackDistance = new Float64Array(4096);
  /** The nearest point that was found last, its triangle and how far it is. */
  x = 0;
  y = 0;
  z = 0;
  triangle = -1;
  distance = Infinity;

  constructor(private readonly bvh: Bvh) {
    this.numbers = new Float32Array(bvh.memory.buffer);
    this.whole = new Int32Array(bvh.memory.buffer);
  }

  /** @param within nothing farther is looked for @returns whether there is one; equal distances go to the lowest triangle */
  find(wx: number, wy: number, wz: number, within = Infinity): boolean {
    const { numbers, whole, stack, stackDistance } = this;
    const { space, nodesAt, blocksAt, triangles } = this.bvh;
    const { centre, scale } = space;
    this.triangle = -1;
    this.distance = Infinity;
    if (triangles === 0) return false;
    const x = (wx - centre[0]) * scale;
    const y = (wy - centre[1]) * scale;
    const z = (wz - centre[2]) * scale;
    let best = within === Infinity ? Infinity : (within * scale) ** 2;
    let found = -1;
    let top = 1;
    stack[0] = 0;
    stackDistance[0] = 0;
    const out = [0, 0, 0];
    while (top > 0) {
      top--;
      if (stackDistance[top] > best) continue;
      const current = stack[top];
      if (current < 0) {
        const first = (current & 0x7fffffff) >> 3;
        for (let b = first; b <= first + (current & 7); b++) {
          const o = (blocksAt + b * BLOCK_BYTES) >> 2;
          for (let k = 0; k < 4; k++) {
            const id = whole[o + 36 + k];
            const d = pointToTriangle(numbers, o + k, x, y, z, out);
            if (d < best || (d === best && (found < 0 || id < found))) {
              best = d;
              found = id;
              [this.x, this.y, this.z] = out;
            }
          }
        }
        continue;
      }
      const o = (nodesAt + current * NODE_BYTES) >> 2;
      const base = top;
      for (let i = o; i < o + 8; i++) {
        if (numbers[i] === Infinity) continue;
        const dx = Math.max(numbers[i] - x, 0, x - numbers[i + 8]);
        const dy = Math.max(numbers[i + 16] - y, 0, y - numbers[i + 24]);
        const dz = Math.max(numbers[i + 32] - z, 0, z - numbers[i + 40]);
        const d = dx * dx + dy * dy + dz * dz;
        if (d > best) continue;
        let at = top++;
        while (at > base && stackDistance[at - 1] < d) {
          stack[at] = stack[at - 1];
          stackDistance[at] = stackDistance[at - 1];
          at--;
        }
        stack[at] = whole[i + 48];
        stackDistance[at] = d;
      }
    }
    if (found < 0) return false;
    this.triangle = found;
    this.distance = Math.sqrt(best) / scale;
    this.x = this.x / scale + centre[0];
    this.y = this.y / scale + centre[1];
    this.z = this.z / scale + centre[2];
    return true;
  }
}

/** Squared distance to the triangle in a lane of a block (Ericson 2005, "Real-Time Collision Detection", 5.1.5); `out` gets the point. */
function pointToTriangle(n: Float32Array, o: number, x: number, y: number, z: number, out: number[]): number {
  const ax = n[o];
  const ay = n[o + 4];
  const az = n[o + 8];
  const ux = n[o + 12] - ax;
  const uy = n[o + 16] - ay;
  const uz = n[o + 20] - az;
  const vx = n[o + 24] - ax;
  const vy = n[o + 28] - ay;
  const vz = n[o + 32] - az;
  const px = x - ax;
  const py = y - ay;
  const pz = z - az;
  const d1 = ux * px + uy * py + uz * pz;
  const d2 = vx * px + vy * py + vz * pz;
  let s = 0;
  let t = 0;
  if (!(d1 <= 0 && d2 <= 0)) {
    const uu = ux * ux + uy * uy + uz * uz;
    const uv = ux * vx + uy * vy + uz * vz;
    const vv = vx * vx + vy * vy + vz * vz;
    const d3 = d1 - uu;
    const d4 = d2 - uv;
    const d5 = d1 - uv;
    const d6 = d2 - vv;
    const vc = d1 * d4 - d3 * d2;
    const vb = d5 * d2 - d1 * d6;
    const va = d3 * d6 - d5 * d4;
    if (d3 >= 0 && d4 <= d3) s = 1;
    else if (vc <= 0 && d1 >= 0 && d3 <= 0) s = d1 / (d1 - d3);
    else if (d6 >= 0 && d5 <= d6) t = 1;
    else if (vb <= 0 && d2 >= 0 && d6 <= 0) t = d2 / (d2 - d6);
    else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
      t = (d4 - d3) / (d4 - d3 + (d5 - d6));
      s = 1 - t;
    } else {
      const sum = va + vb + vc;
      s = sum > 0 ? vb / sum : 0;
      t = sum > 0 ? vc / sum : 0;
    }
  }
  const qx = ux * s + vx * t;
  const qy = uy * s + vy * t;
  const qz = uz * s + vz * t;
  out[0] = ax + qx;
  out[1] = ay + qy;
  out[2] = az + qz;
  return (qx - px) ** 2 + (qy - py) ** 2 + (qz - pz) ** 2;
}
