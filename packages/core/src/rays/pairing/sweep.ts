import type { Bvh } from '@wembrel/kernels/bvh-layout';
import { ClosestPoint } from '@wembrel/kernels/closest-point';
import { RayCaster, Sides } from '@wembrel/kernels/rays';
import { HitSurface, unit } from '../target/hit-surface.ts';
import type { LowTarget } from '../target/low-target.ts';
import { faceNormal, type RayMesh } from '../target/ray-mesh.ts';
import { spreadPoints } from '../target/spread-points.ts';
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

/**
 * Tries reaches on points of the surface: how many rays would miss, how many would meet what belongs elsewhere (see `markFaults`), and how
 * many would start inside of the high-poly. Outward reaches are tried
 * with the widest inward one, then inward ones with the best outward one; the best has the fewest faults, and of those the shortest reach.
 */
export function sweepReaches(
  target: LowTarget,
  pieces: Uint32Array,
  lowBvh: Bvh,
  high: RayMesh,
  highBvh: Bvh,
  measured: Reaches,
): Sweep {
  const caster = new RayCaster(highBvh);
  const low = new ClosestPoint(lowBvh);
  const hits = new HitSurface(high, []);
  const points = spreadPoints(target.mesh, TRIES);
  const p = new Float64Array(points.length * 3);
  const d = new Float64Array(points.length * 3);
  points.forEach(({ triangle: t, b1, b2 }, i) => {
    const b0 = 1 - b1 - b2;
    const v = [...d.subarray(0, 3)];
    for (let k = 0; k < 3; k++) {
      const at = (c: number) => target.mesh.positions[target.mesh.indices[t * 3 + c] * 3 + k];
      p[i * 3 + k] = b0 * at(0) + b1 * at(1) + b2 * at(2);
      const way = (c: number) => target.directions[t * 9 + c * 3 + k];
      v[k] = b0 * way(0) + b1 * way(1) + b2 * way(2);
    }
    unit(v);
    d.set(v, i * 3);
  });
  const face = [0, 0, 0];
  const farthest = measured.outward * SHARES[SHARES.length - 1];
  const plane = [0, 0, 0];
  /** Points from whose start the way out meets a back face first. */
  const startsInside = (outward: number): number => {
    caster.clear();
    for (let o = 0; o < p.length; o += 3)
      caster.add(p[o], p[o + 1], p[o + 2], d[o], d[o + 1], d[o + 2], outward, farthest);
    caster.closest(Sides.both);
    let inside = 0;
    for (let i = 0; i < points.length; i++) {
      const t = caster.triangle(i);
      if (t < 0) continue;
      faceNormal(high, t, plane);
      if (plane[0] * d[i * 3] + plane[1] * d[i * 3 + 1] + plane[2] * d[i * 3 + 2] > 0) inside++;
    }
    return inside;
  };
  const attempt = ({ outward, inward }: Reaches): SweepPoint => {
    let missed = 0;
    let stray = 0;
    caster.clear();
    points.forEach((_, i) => {
      const o = i * 3;
      caster.add(
        p[o] + d[o] * outward,
        p[o + 1] + d[o + 1] * outward,
        p[o + 2] + d[o + 2] * outward,
        -d[o],
        -d[o + 1],
        -d[o + 2],
        0,
        outward + inward,
      );
    });
    caster.closest(Sides.front);
    points.forEach(({ triangle }, i) => {
      const t = caster.triangle(i);
      if (t < 0) {
        missed++;
        return;
      }
      hits.at(t, caster.u(i), caster.v(i));
      const h = Math.abs(outward - caster.distance(i));
      if (!low.find(hits.point[0], hits.point[1], hits.point[2], h * 0.5) || low.triangle === triangle) return;
      faceNormal(target.mesh, low.triangle, face);
      const facing = face[0] * d[i * 3] + face[1] * d[i * 3 + 1] + face[2] * d[i * 3 + 2];
      if (facing < -0.01 || pieces[low.triangle] !== pieces[triangle]) stray++;
    });
    const n = Math.max(1, points.length);
    return { outward, inward, missed: missed / n, stray: stray / n, cut: startsInside(outward) / n };
  };
  const cost = (q: SweepPoint) => q.missed + q.stray + q.cut;
  // Within two points in a thousand the shorter one is as good.
  const best = (list: SweepPoint[]) => {
    const least = Math.min(...list.map(cost));
    return list.find((q) => cost(q) <= least + 0.002) as SweepPoint;
  };
  const outward = SHARES.map((s) => attempt({ outward: measured.outward * s, inward: measured.inward * 4 }));
  const chosen = best(outward);
  const inward = SHARES.map((s) => attempt({ outward: chosen.outward, inward: measured.inward * s }));
  return { points: [...outward, ...inward], best: best(inward) };
}
