import { BATCH, type Bvh, RAY_BYTES, SLOT_BYTES, STACK_BYTES } from './bvh-layout.ts';
import code from './generated/rays.ts';
import { instantiateShared } from './wasm.ts';

interface Exports {
  setUp(nodes: number, blocks: number, scratch: number): void;
  closest(rays: number, count: number, hits: number, sides: number): void;
  any(rays: number, count: number, out: number): void;
}

/** Ends of rays in the hierarchy's own units are never farther away. */
export const FARTHEST = 1e30;

/** Clear faces that a ray goes through at the most; what lies behind more of them counts as not there. */
export const LAYERS = 64;
/** A ray goes on behind a clear face by so much of its way. */
export const BEYOND = 2e-6;

/** Which sides of triangles a ray meets. */
export const Sides = { both: 0, front: 1, back: 2 } as const;
export type Sides = (typeof Sides)[keyof typeof Sides];

/** Casts rays in batches through a hierarchy; each worker has one of its own, over a slot of its own. Coordinates are the world's. */
export class RayCaster {
  /** ox oy oz from dx dy dz to of each ray, in the hierarchy's own units. */
  private readonly rays: Float32Array;
  private readonly hitNumbers: Float32Array;
  private readonly hitTriangles: Int32Array;
  private readonly met: Uint8Array;
  private readonly kernel: Exports;
  private readonly raysAt: number;
  private readonly hitsAt: number;
  private readonly x: number;
  private readonly y: number;
  private readonly z: number;
  private readonly scale: number;
  /** Rays in the batch. */
  count = 0;
  /** All rays that were cast. */
  cast = 0;

  /** @param slot 0 … slots − 1 */
  constructor(bvh: Bvh, slot = 0) {
    if (slot >= bvh.slots) throw new Error(`slot ${slot} of ${bvh.slots}`);
    const at = bvh.slotsAt + slot * SLOT_BYTES;
    const { buffer } = bvh.memory;
    this.raysAt = at + STACK_BYTES;
    this.hitsAt = this.raysAt + BATCH * RAY_BYTES;
    this.rays = new Float32Array(buffer, this.raysAt, BATCH * 8);
    this.hitNumbers = new Float32Array(buffer, this.hitsAt, BATCH * 4);
    this.hitTriangles = new Int32Array(buffer, this.hitsAt, BATCH * 4);
    this.met = new Uint8Array(buffer, this.hitsAt, BATCH);
    this.kernel = instantiateShared<Exports>(code, bvh.memory);
    this.kernel.setUp(bvh.nodesAt, bvh.blocksAt, at);
    [this.x, this.y, this.z] = bvh.space.centre;
    this.scale = bvh.space.scale;
  }

  get full(): boolean {
    return this.count >= BATCH;
  }

  clear(): void {
    this.count = 0;
  }

  /** Adds a ray to the batch; the direction is of length 1, `from` and `to` are distances along it. @returns its place */
  add(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, from: number, to: number): number {
    const { rays, scale } = this;
    const i = this.count++;
    const o = i << 3;
    rays[o] = (ox - this.x) * scale;
    rays[o + 1] = (oy - this.y) * scale;
    rays[o + 2] = (oz - this.z) * scale;
    rays[o + 3] = from * scale;
    rays[o + 4] = dx;
    rays[o + 5] = dy;
    rays[o + 6] = dz;
    // Without an end it still must end before the boxes of lanes that are empty, which lie infinitely far away.
    const end = to * scale;
    rays[o + 7] = end < FARTHEST ? end : FARTHEST;
    return i;
  }

  /** First hits of the batch, to be read by `triangle`, `distance`, `u`, `v`. */
  closest(sides: Sides = Sides.both): void {
    this.kernel.closest(this.raysAt, this.count, this.hitsAt, sides);
    this.cast += this.count;
  }

  /** Whether the rays of the batch meet anything, to be read by `blocked`. */
  any(): void {
    this.kernel.any(this.raysAt, this.count, this.hitsAt);
    this.cast += this.count;
  }

  /**
   * As `any`, but places that are clear do not stop a ray.
   * @param isClear of a triangle, and the weights of its second and third corner
   */
  anyBehind(isClear: (triangle: number, u: number, v: number) => boolean): void {
    const { count, rays } = this;
    const blocked = new Uint8Array(count);
    const own = rays.slice(0, count * 8);
    let left = Array.from({ length: count }, (_, i) => i);
    for (let layer = 0; left.length > 0 && layer < LAYERS; layer++) {
      left.forEach((i, k) => {
        rays.set(own.subarray(i * 8, i * 8 + 8), k * 8);
      });
      this.count = left.length;
      this.closest();
      left = left.filter((i, k) => {
        const triangle = this.triangle(k);
        if (triangle < 0) return false;
        const clear = isClear(triangle, this.u(k), this.v(k));
        blocked[i] = clear ? 0 : 1;
        // On behind it, by more than the hit can be wrong.
        own[i * 8 + 3] = this.hitNumbers[k * 4] * (1 + BEYOND) + 1e-7;
        return clear;
      });
    }
    this.count = count;
    this.met.set(blocked);
  }

  /** −1 when the ray met nothing. */
  triangle(i: number): number {
    return this.hitTriangles[i * 4 + 1];
  }

  distance(i: number): number {
    return this.hitNumbers[i * 4] / this.scale;
  }

  /** Weight of the triangle's second corner at the hit. */
  u(i: number): number {
    return this.hitNumbers[i * 4 + 2];
  }

  /** Weight of the triangle's third corner at the hit. */
  v(i: number): number {
    return this.hitNumbers[i * 4 + 3];
  }

  blocked(i: number): boolean {
    return this.met[i] === 1;
  }
}
