import { hash01 } from '../../math/hash.ts';
import { faceNormal, type RayMesh } from './ray-mesh.ts';

/** A triangle, and the weights of its second and third corner. */
export interface SurfacePoint {
  triangle: number;
  b1: number;
  b2: number;
}

/** Points spread evenly over a surface by area; the same for the same surface. */
export function spreadPoints(mesh: RayMesh, count: number): SurfacePoint[] {
  const n = [0, 0, 0];
  const sums = new Float64Array(mesh.triangles + 1);
  for (let t = 0; t < mesh.triangles; t++) sums[t + 1] = sums[t] + faceNormal(mesh, t, n);
  const total = sums[mesh.triangles];
  const out: SurfacePoint[] = [];
  let t = 0;
  for (let i = 0; i < count && total > 0; i++) {
    const at = ((i + hash01(i, 5)) / count) * total;
    while (t < mesh.triangles - 1 && sums[t + 1] < at) t++;
    const r = Math.sqrt(hash01(i, 6));
    const s = hash01(i, 7);
    out.push({ triangle: t, b1: r * (1 - s), b2: r * s });
  }
  return out;
}
