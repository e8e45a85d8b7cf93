import type { Bvh } from '@wembrel/kernels/bvh-layout';
import { ClosestPoint } from '@wembrel/kernels/closest-point';
import { RayCaster, Sides } from '@wembrel/kernels/rays';
import { HitSurface, unit } from '../target/hit-surface.ts';
import type { LowTarget } from '../target/low-target.ts';
import { faceNormal, type RayMesh } from '../target/ray-mesh.ts';
import { type SurfacePoint, spreadPoints } from '../target/spread-points.ts';
import type { Reaches } from './measure.ts';

/** What a pair of reaches would cost. */
interface SweepPoint extends Reaches {
  /** Shares of the surface. */
  missed: number;
  stray: number;
  /** Rays that would start inside of the high-poly, so that what stands out there is cut off. */
  cut: number;
}

export interface Sweep {
  points: SweepPoint[];
  best: SweepPoint;
}

/** Points of the surface that are tried. */
const TRIES = 4096;
/** Reaches that are tried, as shares of the measured ones. */
const SHARES = [0.05, 0.1, 0.2, 0.35, 0.5, 0.7, 0.85, 1, 1.25, 1.6, 2, 3, 4];

/** The two sides of a pairing, with their hierarchies. */
export interface SweepMeshes {
  target: LowTarget;
  /** Connected piece of each triangle of the low-poly. */
  pieces: Uint32Array;
  lowBvh: Bvh;
  high: RayMesh;
  highBvh: Bvh;
}

/**
 * Tries reaches on points of the surface: how many rays would miss, how many would meet what belongs elsewhere (see `markFaults`), and how
 * many would start inside of the high-poly. Outward reaches are tried
 * with the widest inward one, then inward ones with the best outward one; the best has the fewest faults, and of those the shortest reach.
 */
export function sweepReaches(meshes: SweepMeshes, measured: Reaches): Sweep {
  const probe = new ReachProbe(meshes, measured.outward * SHARES[SHARES.length - 1]);
  const outward = SHARES.map((s) => probe.attempt({ outward: measured.outward * s, inward: measured.inward * 4 }));
  const chosen = bestPoint(outward);
  const inward = SHARES.map((s) => probe.attempt({ outward: chosen.outward, inward: measured.inward * s }));
  return { points: [...outward, ...inward], best: bestPoint(inward) };
}

const faultsOf = (sweepPoint: SweepPoint) => sweepPoint.missed + sweepPoint.stray + sweepPoint.cut;

/** Within two points in a thousand the shorter one is as good. */
function bestPoint(list: readonly SweepPoint[]): SweepPoint {
  const least = Math.min(...list.map(faultsOf));
  return list.find((sweepPoint) => faultsOf(sweepPoint) <= least + 0.002) as SweepPoint;
}

/** Points spread over the low-poly, and rays from them. */
class ReachProbe {
  private readonly caster: RayCaster;
  private readonly low: ClosestPoint;
  private readonly hits: HitSurface;
  private readonly points: SurfacePoint[];
  /** Place and way out of each point, x y z. */
  private readonly places: Float64Array;
  private readonly ways: Float64Array;
  private readonly face = [0, 0, 0];

  /** @param farthest how far a back face is looked for, m */
  constructor(
    private readonly meshes: SweepMeshes,
    private readonly farthest: number,
  ) {
    const { target, lowBvh, high, highBvh } = meshes;
    this.caster = new RayCaster(highBvh);
    this.low = new ClosestPoint(lowBvh);
    this.hits = new HitSurface(high, []);
    this.points = spreadPoints(target.mesh, TRIES);
    this.places = new Float64Array(this.points.length * 3);
    this.ways = new Float64Array(this.points.length * 3);
    this.points.forEach(({ triangle: t, b1, b2 }, i) => {
      const b0 = 1 - b1 - b2;
      const way = [0, 0, 0];
      for (let k = 0; k < 3; k++) {
        const at = (c: number) => target.mesh.positions[target.mesh.indices[t * 3 + c] * 3 + k];
        this.places[i * 3 + k] = b0 * at(0) + b1 * at(1) + b2 * at(2);
        const out = (c: number) => target.directions[t * 9 + c * 3 + k];
        way[k] = b0 * out(0) + b1 * out(1) + b2 * out(2);
      }
      unit(way);
      this.ways.set(way, i * 3);
    });
  }

  /** Shares of the points that would miss, stray or start inside with such reaches. */
  attempt({ outward, inward }: Reaches): SweepPoint {
    const { caster, places: p, ways: d } = this;
    caster.clear();
    for (let o = 0; o < p.length; o += 3) {
      const [x, y, z] = [p[o] + d[o] * outward, p[o + 1] + d[o + 1] * outward, p[o + 2] + d[o + 2] * outward];
      caster.add(x, y, z, -d[o], -d[o + 1], -d[o + 2], 0, outward + inward);
    }
    caster.closest(Sides.front);
    let missed = 0;
    let stray = 0;
    for (let i = 0; i < this.points.length; i++) {
      const t = caster.triangle(i);
      if (t < 0) missed++;
      else if (this.isStray(i, t, outward)) stray++;
    }
    const n = Math.max(1, this.points.length);
    return { outward, inward, missed: missed / n, stray: stray / n, cut: this.startsInside(outward) / n };
  }

  /** Whether the low-poly lies nearer to a hit with another of its pieces, or with a side that faces away. */
  private isStray(i: number, hit: number, outward: number): boolean {
    const { caster, hits, low, face, ways: d } = this;
    const { target, pieces } = this.meshes;
    const { triangle } = this.points[i];
    hits.at(hit, caster.u(i), caster.v(i));
    const h = Math.abs(outward - caster.distance(i));
    if (!low.find(hits.point[0], hits.point[1], hits.point[2], h * 0.5) || low.triangle === triangle) return false;
    faceNormal(target.mesh, low.triangle, face);
    const facing = face[0] * d[i * 3] + face[1] * d[i * 3 + 1] + face[2] * d[i * 3 + 2];
    return facing < -0.01 || pieces[low.triangle] !== pieces[triangle];
  }

  /** Points from whose start the way out meets a back face first. */
  private startsInside(outward: number): number {
    const { caster, places: p, ways: d, face } = this;
    caster.clear();
    for (let o = 0; o < p.length; o += 3)
      caster.add(p[o], p[o + 1], p[o + 2], d[o], d[o + 1], d[o + 2], outward, this.farthest);
    caster.closest(Sides.both);
    let inside = 0;
    for (let i = 0; i < this.points.length; i++) {
      const t = caster.triangle(i);
      if (t < 0) continue;
      faceNormal(this.meshes.high, t, face);
      if (face[0] * d[i * 3] + face[1] * d[i * 3 + 1] + face[2] * d[i * 3 + 2] > 0) inside++;
    }
    return inside;
  }
}
