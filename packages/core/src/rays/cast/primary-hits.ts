import { BEYOND, LAYERS, type RayCaster, Sides } from '@wembrel/kernels/rays';
import type { BrushStamp, RaySettings } from '../../decisions/ray-decisions.ts';
import { barycentrics, nearestOnTriangle } from '../../math/barycentrics.ts';
import type { LowTarget } from '../target/low-target.ts';
import { faceNormal } from '../target/ray-mesh.ts';
import { Brushed } from './brush-stamps.ts';
import type { TileSamples } from './tile-samples.ts';

/** Whether a place of the high-poly (weights of the second and third corner) is cut away by its material. */
export type IsClear = (triangle: number, u: number, v: number) => boolean;

/** What rays start from. */
export interface RayOrigins {
  /** What is baked onto. */
  target: LowTarget;
  /** Where rays start in its stead, with its samples of the same tile; see `PairingDecision.surface`. */
  surface: { target: LowTarget; samples: TileSamples } | null;
  /** m behind the surface. */
  inward: number;
  /** Brush stamps, see `Brushed`. */
  localReaches: readonly BrushStamp[];
}

export interface PrimarySettings extends Pick<RaySettings, 'hit' | 'backFaces'> {
  caster: RayCaster;
  /** Whether a place of the high-poly is cut away by its material, so that rays go on; null: none is. */
  isClear: IsClear | null;
}

interface RayBatches {
  /** Samples. */
  count: number;
  caster: RayCaster;
  sides: Sides;
  /** Casts the ray of a sample from `skipped` m along it on. */
  add: (i: number, skipped: number) => void;
  isClear: IsClear | null;
}

/** Where the rays of a tile's samples start, where they go, and what they met; grows with the tile. */
export class PrimaryHits {
  /** Point of the casting surface and unit way out, three a sample. */
  point = new Float64Array(0);
  out = new Float64Array(0);
  /** Triangle of the high-poly, −1 for a miss, and weights of its second and third corner. */
  triangle = new Int32Array(0);
  u = new Float32Array(0);
  v = new Float32Array(0);
  /** How far the hit lies above the casting surface along the way out, m. */
  height = new Float64Array(0);
  /** It went through clear texels and met nothing behind them: nothing is there, and nothing is wrong. */
  clear = new Uint8Array(0);
  /** Reaches of each sample, m. */
  private reach = new Float64Array(0);
  private depth = new Float64Array(0);
  private readonly face = new Float64Array(3);
  private readonly low = new Float64Array(3);
  private readonly high = new Float64Array(3);

  private grow(n: number): void {
    if (this.triangle.length >= n) return;
    this.point = new Float64Array(n * 3);
    this.out = new Float64Array(n * 3);
    this.triangle = new Int32Array(n);
    this.u = new Float32Array(n);
    this.v = new Float32Array(n);
    this.height = new Float64Array(n);
    this.reach = new Float64Array(n);
    this.depth = new Float64Array(n);
    this.clear = new Uint8Array(n);
  }

  /** Casts the primary rays of all samples. Method: reference, "Ray bake". */
  cast(samples: TileSamples, origins: RayOrigins, settings: PrimarySettings): void {
    this.grow(samples.count);
    this.startAll(samples, origins);
    const { hit, backFaces, caster, isClear } = settings;
    const layers = { count: samples.count, caster, isClear };
    const sides = backFaces ? Sides.both : Sides.front;
    if (hit === 'outside') {
      this.batches(
        { ...layers, sides, add: (i, skipped) => this.fromOutside(caster, i, skipped) },
        (i, distance) => this.reach[i] - distance,
      );
      return;
    }
    // The nearest on either side: inward from the surface, and outward with fronts and backs changed over.
    this.batches(
      { ...layers, sides, add: (i, skipped) => this.along(caster, i, -1, skipped, this.depth[i]) },
      (_, distance) => -distance,
    );
    const behind = backFaces ? Sides.both : Sides.back;
    this.batches(
      { ...layers, sides: behind, add: (i, skipped) => this.along(caster, i, 1, skipped, this.reach[i]) },
      (_, distance) => distance,
    );
  }

  /** Where each sample's ray starts, and how far it goes. */
  private startAll(samples: TileSamples, { target, surface, inward, localReaches }: RayOrigins): void {
    const bary = new Float64Array(3);
    const brushed = new Brushed(localReaches);
    let around: LowTarget | null = null;
    let aroundFace = -1;
    for (let i = 0; i < samples.count; i++) {
      let on = target;
      let t = samples.triangle[i];
      let b1 = samples.b1[i];
      let b2 = samples.b2[i];
      if (surface) {
        const other = surface.samples.triangleAt(samples.texel[i], samples.sub[i]);
        if (other >= 0) {
          on = surface.target;
          t = other;
          const { place } = on;
          if (samples.sub[i] < 0) nearestOnTriangle(place, t * 6, samples.x[i], samples.y[i], bary);
          else barycentrics(place, t * 6, samples.x[i], samples.y[i], bary);
          b1 = bary[1];
          b2 = bary[2];
        }
      }
      this.start(on, t, b1, b2, i);
      this.depth[i] = inward;
      if (!brushed.any) continue;
      // Brush stamps that do not reach a triangle reach none of its samples.
      if (on !== around || t !== aroundFace) this.bounds(on, t, brushed);
      around = on;
      aroundFace = t;
      this.brush(on, t, i, brushed);
    }
  }

  private fromOutside(caster: RayCaster, i: number, skipped: number): void {
    const o = i * 3;
    const { point: p, out: d } = this;
    const r = this.reach[i];
    const x = p[o] + d[o] * r;
    const y = p[o + 1] + d[o + 1] * r;
    const z = p[o + 2] + d[o + 2] * r;
    caster.add(x, y, z, -d[o], -d[o + 1], -d[o + 2], skipped, r + this.depth[i]);
  }

  private along(caster: RayCaster, i: number, way: 1 | -1, from: number, to: number): void {
    const o = i * 3;
    const { point: p, out: d } = this;
    caster.add(p[o], p[o + 1], p[o + 2], d[o] * way, d[o + 1] * way, d[o + 2] * way, from, to);
  }

  private batches(
    { count: all, caster, sides, add, isClear }: RayBatches,
    heightOf: (i: number, distance: number) => number,
  ): void {
    let queue: ArrayLike<number> | null = null;
    let skipped: number[] = [];
    for (let layer = 0; layer <= LAYERS; layer++) {
      const count: number = queue ? queue.length : all;
      const again: number[] = [];
      const beyond: number[] = [];
      let from = 0;
      while (from < count) {
        caster.clear();
        let to = from;
        while (to < count && !caster.full) {
          add(queue ? queue[to] : to, queue ? skipped[to] : 0);
          to++;
        }
        caster.closest(sides);
        for (let at = from; at < to; at++) {
          const k = at - from;
          const i: number = queue ? queue[at] : at;
          const triangle = caster.triangle(k);
          if (triangle < 0) continue;
          const distance = caster.distance(k);
          if (isClear?.(triangle, caster.u(k), caster.v(k))) {
            this.clear[i] = 1;
            again.push(i);
            beyond.push(distance + Math.max(distance, this.reach[i]) * BEYOND);
            continue;
          }
          const height = heightOf(i, distance);
          if (this.triangle[i] >= 0 && Math.abs(this.height[i]) <= Math.abs(height)) continue;
          this.triangle[i] = triangle;
          this.u[i] = caster.u(k);
          this.v[i] = caster.v(k);
          this.height[i] = height;
        }
        from = to;
      }
      if (again.length === 0) return;
      queue = again;
      skipped = beyond;
    }
  }

  /** The box of a triangle, for which brush stamps matter. */
  private bounds(on: LowTarget, t: number, brushed: Brushed): void {
    const { indices, positions: p } = on.mesh;
    for (let k = 0; k < 3; k++) {
      const [a, b, c] = [0, 1, 2].map((v) => p[indices[t * 3 + v] * 3 + k]);
      this.low[k] = Math.min(a, b, c);
      this.high[k] = Math.max(a, b, c);
    }
    brushed.within(this.low, this.high);
  }

  private brush(on: LowTarget, t: number, i: number, brushed: Brushed): void {
    const o = i * 3;
    const { point: p, out: d, face } = this;
    if (!brushed.at(p[o], p[o + 1], p[o + 2])) return;
    this.reach[i] *= brushed.outward;
    this.depth[i] *= brushed.inward;
    if (brushed.straight === 0) return;
    faceNormal(on.mesh, t, face);
    const straight = brushed.straight;
    for (let k = 0; k < 3; k++) d[o + k] += (face[k] - d[o + k]) * straight;
    const l = Math.sqrt(d[o] ** 2 + d[o + 1] ** 2 + d[o + 2] ** 2);
    for (let k = 0; k < 3; k++) d[o + k] = l > 1e-9 ? d[o + k] / l : face[k];
  }

  /** Point, way out and reach at a place of the casting surface. */
  private start(on: LowTarget, t: number, b1: number, b2: number, i: number): void {
    const b0 = 1 - b1 - b2;
    const { indices, positions: p } = on.mesh;
    const a = indices[t * 3] * 3;
    const b = indices[t * 3 + 1] * 3;
    const c = indices[t * 3 + 2] * 3;
    const q = t * 9;
    const { directions: d, outward: w } = on;
    const o = i * 3;
    // With a cage the interpolated way from surface to cage decides both direction and reach.
    const w0 = on.cage ? b0 * w[t * 3] : b0;
    const w1 = on.cage ? b1 * w[t * 3 + 1] : b1;
    const w2 = on.cage ? b2 * w[t * 3 + 2] : b2;
    for (let k = 0; k < 3; k++) {
      this.point[o + k] = b0 * p[a + k] + b1 * p[b + k] + b2 * p[c + k];
      this.out[o + k] = w0 * d[q + k] + w1 * d[q + 3 + k] + w2 * d[q + 6 + k];
    }
    const l = Math.sqrt(this.out[o] ** 2 + this.out[o + 1] ** 2 + this.out[o + 2] ** 2);
    for (let k = 0; k < 3; k++) this.out[o + k] = l > 0 ? this.out[o + k] / l : d[q + k];
    this.reach[i] = on.cage ? l : b0 * w[t * 3] + b1 * w[t * 3 + 1] + b2 * w[t * 3 + 2];
    this.triangle[i] = -1;
    this.clear[i] = 0;
  }
}
