import { type RayCaster, Sides } from '@wembrel/kernels/rays';
import { frameOf, hemisphere } from '../../math/hemisphere.ts';
import type { HitSurface } from '../target/hit-surface.ts';
import type { IsClear } from './primary-hits.ts';

/** A value for each sample of a tile, as a sum and what it is divided by. */
export class SampleMeans {
  sum = new Float64Array(0);
  weight = new Float64Array(0);

  clear(n: number): void {
    if (this.sum.length < n) {
      this.sum = new Float64Array(n);
      this.weight = new Float64Array(n);
    } else {
      this.sum.fill(0, 0, n);
      this.weight.fill(0, 0, n);
    }
  }

  mean(i: number, otherwise: number): number {
    return this.weight[i] > 0 ? this.sum[i] / this.weight[i] : otherwise;
  }
}

/** Puts `hits` at a sample; false when it met nothing. */
type SampleAt = (i: number, hits: HitSurface) => boolean;

/** The samples that rays start from. */
export interface SampleSource {
  count: number;
  at: SampleAt;
  /** Where `at` puts a sample. */
  hits: HitSurface;
}

interface Directions {
  /** Rays a sample. */
  rays: number;
  /** A number for each sample, which turns its directions. */
  seedOf: (i: number) => readonly [texel: number, first: number];
}

export interface AmbientSettings extends Directions {
  /** How far a ray looks, m. */
  distance: number;
  /** Places that do not stop rays; null: all do. */
  isClear?: IsClear | null;
}

export interface SunSettings extends Directions {
  /** Unit, towards the sun. */
  towards: ArrayLike<number>;
  /** Sine of half the angle under which it is seen. */
  spread: number;
  /** See `AmbientSettings`. */
  isClear?: IsClear | null;
}

export interface ThicknessSettings extends Directions {
  /** Way through the object that counts as 1, m. */
  distance: number;
}

export interface CurvatureSettings {
  seedOf: Directions['seedOf'];
  /** Room for the places that are looked at beside a sample. */
  probe: HitSurface;
  /** Of each ring. */
  directions: number;
  /** m. */
  radius: number;
}

/** Points are lifted off their surface by so much of the scene's half side, so that they do not meet it again. */
const LIFT = 4e-6;

/** Rays about the normals of samples, cast in batches; one object a worker. */
export class SecondaryRays {
  private readonly owner = new Int32Array(8192);
  private readonly ring = new Float64Array(8192);
  private readonly frame = new Float64Array(6);
  private directions = new Float64Array(0);
  private readonly lift: number;

  /** @param unit half a side of the scene, m */
  constructor(
    private readonly caster: RayCaster,
    unit: number,
  ) {
    this.lift = LIFT * unit;
  }

  /**
   * Ambient occlusion: the share of cosine-weighted directions in which nothing is met within `distance`. Directions below the plane of the face are
   * left out.
   */
  ambient({ count: n, at, hits }: SampleSource, settings: AmbientSettings, out: SampleMeans): void {
    const { rays: count, distance, seedOf, isClear = null } = settings;
    const { caster, owner, frame } = this;
    out.clear(n);
    if (this.directions.length < count * 3) this.directions = new Float64Array(count * 3);
    const w = this.directions;
    const flush = () => {
      if (isClear) caster.anyBehind(isClear);
      else caster.any();
      for (let k = 0; k < caster.count; k++) {
        out.weight[owner[k]]++;
        if (!caster.blocked(k)) out.sum[owner[k]]++;
      }
      caster.clear();
    };
    caster.clear();
    for (let i = 0; i < n; i++) {
      if (!at(i, hits)) continue;
      const { point: p, normal: m, plane: g } = hits;
      frameOf(m, frame);
      const [seed, first] = seedOf(i);
      hemisphere(count, first, seed, 1, w);
      const x = p[0] + g[0] * this.lift;
      const y = p[1] + g[1] * this.lift;
      const z = p[2] + g[2] * this.lift;
      for (let k = 0; k < count * 3; k += 3) {
        const dx = w[k] * frame[0] + w[k + 1] * frame[3] + w[k + 2] * m[0];
        const dy = w[k] * frame[1] + w[k + 1] * frame[4] + w[k + 2] * m[1];
        const dz = w[k] * frame[2] + w[k + 1] * frame[5] + w[k + 2] * m[2];
        if (dx * g[0] + dy * g[1] + dz * g[2] <= 0) continue;
        if (caster.full) flush();
        owner[caster.add(x, y, z, dx, dy, dz, 0, distance)] = i;
      }
    }
    flush();
  }

  /**
   * A sun: the mean over its disc of n · l where nothing is in the way.
   */
  sun({ count: n, at, hits }: SampleSource, settings: SunSettings, out: SampleMeans): void {
    const { rays: count, towards: way, spread, seedOf, isClear = null } = settings;
    const { caster, owner, ring, frame } = this;
    out.clear(n);
    if (this.directions.length < count * 3) this.directions = new Float64Array(count * 3);
    const w = this.directions;
    frameOf(way, frame);
    const flush = () => {
      if (isClear) caster.anyBehind(isClear);
      else caster.any();
      for (let k = 0; k < caster.count; k++) if (!caster.blocked(k)) out.sum[owner[k]] += ring[k];
      caster.clear();
    };
    caster.clear();
    for (let i = 0; i < n; i++) {
      if (!at(i, hits)) continue;
      const { point: p, normal: m, plane: g } = hits;
      const [seed, first] = seedOf(i);
      hemisphere(count, first, seed, spread, w);
      out.weight[i] += count;
      for (let k = 0; k < count * 3; k += 3) {
        const dx = w[k] * frame[0] + w[k + 1] * frame[3] + w[k + 2] * way[0];
        const dy = w[k] * frame[1] + w[k + 1] * frame[4] + w[k + 2] * way[1];
        const dz = w[k] * frame[2] + w[k + 1] * frame[5] + w[k + 2] * way[2];
        const lit = m[0] * dx + m[1] * dy + m[2] * dz;
        // Behind the plane of its own face there is no sun, whatever the normal says.
        if (lit <= 0 || dx * g[0] + dy * g[1] + dz * g[2] <= 0) continue;
        if (caster.full) flush();
        const ray = caster.add(
          p[0] + g[0] * this.lift,
          p[1] + g[1] * this.lift,
          p[2] + g[2] * this.lift,
          dx,
          dy,
          dz,
          0,
          1e9,
        );
        owner[ray] = i;
        ring[ray] = lit;
      }
    }
    flush();
  }

  /** Thickness: mean way through the object within a cone about the inward normal, as a share of `distance`; nothing met counts as all of it. */
  thickness({ count: n, at, hits }: SampleSource, settings: ThicknessSettings, out: SampleMeans): void {
    const { rays: count, distance, seedOf } = settings;
    const { caster, owner, frame } = this;
    out.clear(n);
    if (this.directions.length < count * 3) this.directions = new Float64Array(count * 3);
    const w = this.directions;
    const flush = () => {
      caster.closest(Sides.both);
      for (let k = 0; k < caster.count; k++) {
        out.weight[owner[k]]++;
        out.sum[owner[k]] += caster.triangle(k) < 0 ? 1 : Math.min(1, caster.distance(k) / distance);
      }
      caster.clear();
    };
    caster.clear();
    for (let i = 0; i < n; i++) {
      if (!at(i, hits)) continue;
      const { point: p, normal: m, plane: g } = hits;
      frameOf(m, frame);
      const [seed, first] = seedOf(i);
      hemisphere(count, first, seed, CONE, w);
      for (let k = 0; k < count * 3; k += 3) {
        const dx = w[k] * frame[0] + w[k + 1] * frame[3] - w[k + 2] * m[0];
        const dy = w[k] * frame[1] + w[k + 1] * frame[4] - w[k + 2] * m[1];
        const dz = w[k] * frame[2] + w[k + 1] * frame[5] - w[k + 2] * m[2];
        if (dx * g[0] + dy * g[1] + dz * g[2] >= 0) continue;
        if (caster.full) flush();
        owner[
          caster.add(p[0] - g[0] * this.lift, p[1] - g[1] * this.lift, p[2] - g[2] * this.lift, dx, dy, dz, 0, distance)
        ] = i;
      }
    }
    flush();
  }

  /**
   * Mean curvature, 1/m, convex positive: the mean of normal curvatures over directions (Euler), each from a chord, κ = (n′ − n)·(q − p)/|q − p|², to
   * a point q that is found by stepping aside by a few lengths up to half a radius and looking down, or to the wall
   * in the way. An edge beyond which there is nothing counts as one over the step. The surface need not be finely cut.
   */
  curvature({ count: n, at, hits }: SampleSource, settings: CurvatureSettings, out: SampleMeans): void {
    const { probe, directions, radius, seedOf } = settings;
    const { caster, owner, frame, ring } = this;
    out.clear(n);
    const flush = () => {
      caster.closest(Sides.both);
      for (let k = 0; k < caster.count; k += 2) {
        const i = owner[k];
        const step = ring[k];
        at(i, hits);
        out.weight[i]++;
        const met = caster.triangle(k) >= 0 ? k : k + 1;
        const triangle = caster.triangle(met);
        if (triangle < 0) {
          out.sum[i] += 1 / step;
          continue;
        }
        probe.at(triangle, caster.u(met), caster.v(met));
        const { point: p, normal: m } = hits;
        const { point: q, normal: o, plane: g } = probe;
        const facing =
          met === k
            ? (q[0] - p[0]) * g[0] + (q[1] - p[1]) * g[1] + (q[2] - p[2]) * g[2] <= 0
            : g[0] * m[0] + g[1] * m[1] + g[2] * m[2] > 0;
        if (!facing) {
          // Inside of something.
          out.sum[i] -= 1 / step;
          continue;
        }
        const [x, y, z] = [q[0] - p[0], q[1] - p[1], q[2] - p[2]];
        const bend = ((o[0] - m[0]) * x + (o[1] - m[1]) * y + (o[2] - m[2]) * z) / (x * x + y * y + z * z);
        out.sum[i] += Math.max(-1 / step, Math.min(1 / step, bend));
      }
      caster.clear();
    };
    caster.clear();
    for (let i = 0; i < n; i++) {
      if (!at(i, hits)) continue;
      const { point: p, normal: m } = hits;
      frameOf(m, frame);
      const [seed, first] = seedOf(i);
      for (let r = 0; r < RINGS.length; r++) {
        const step = radius * RINGS[r];
        const turn = ((seed * 0.6180339887498949 + (first + r) * 0.7548776662466927) % 1) / directions;
        for (let k = 0; k < directions; k++) {
          const a = 2 * Math.PI * (k / directions + turn);
          const c = Math.cos(a);
          const s = Math.sin(a);
          const ex = c * frame[0] + s * frame[3];
          const ey = c * frame[1] + s * frame[4];
          const ez = c * frame[2] + s * frame[5];
          if (caster.count + 2 > MOST) flush();
          const low = step * 0.1 + this.lift;
          const one = caster.add(p[0] + m[0] * low, p[1] + m[1] * low, p[2] + m[2] * low, ex, ey, ez, 0, step);
          caster.add(
            p[0] + (ex + m[0]) * step,
            p[1] + (ey + m[1]) * step,
            p[2] + (ez + m[2]) * step,
            -m[0],
            -m[1],
            -m[2],
            0,
            2 * step,
          );
          owner[one] = i;
          ring[one] = step;
        }
      }
    }
    flush();
  }
}

const MOST = 4096;
/** Sine of half the opening of the cone of thickness: 60°. */
const CONE = 0.8660254037844386;
/** Steps of curvature, in radii. */
const RINGS = [0.125, 0.25, 0.5];
