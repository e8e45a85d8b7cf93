import { buildBvh } from '@wembrel/kernels/bvh';
import { ClosestPoint } from '@wembrel/kernels/closest-point';
import type { RayMesh } from '../rays/target/ray-mesh.ts';
import { spreadPoints } from '../rays/target/spread-points.ts';
import type { LightMesh } from './light-mesh.ts';

/** Points of each surface that are measured. */
const POINTS = 20_000;

/** How far two surfaces lie apart, m: from points of either to the nearest point of the other. */
export interface SurfaceDistance {
  /** The greatest of all points, either way (Hausdorff distance of the points). */
  greatest: number;
  /** From the points of the second to the first alone: how far it strays from it. */
  stray: number;
}

/** Where only the outside was kept, inner faces of the first are far from the second: they count in `greatest`. */
export function surfaceDistance(a: LightMesh, b: LightMesh): SurfaceDistance {
  const stray = farthest(b, a);
  return { greatest: Math.max(stray, farthest(a, b)), stray };
}

function farthest(from: LightMesh, to: LightMesh): number {
  const closest = new ClosestPoint(buildBvh(to.positions, to.indices));
  const mesh = { ...from, triangles: from.indices.length / 3 } as RayMesh;
  const at = (v: number, k: number) => from.positions[v * 3 + k];
  let most = 0;
  for (const { triangle: t, b1, b2 } of spreadPoints(mesh, POINTS)) {
    const [a, b, c] = from.indices.subarray(t * 3, t * 3 + 3);
    const p = [0, 1, 2].map((k) => (1 - b1 - b2) * at(a, k) + b1 * at(b, k) + b2 * at(c, k));
    if (closest.find(p[0], p[1], p[2])) most = Math.max(most, closest.distance);
  }
  return most;
}
