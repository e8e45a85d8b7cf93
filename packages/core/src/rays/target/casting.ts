import type { CastMode } from '../../decisions/ray-decisions.ts';
import { addByAngle } from '../../math/triangle.ts';
import { byteColumn, weldVertices } from '../../mesh/weld.ts';
import { boxOf, largestSide } from './mesh-box.ts';
import { faceNormal, meshCornerNormals, type RayMesh } from './ray-mesh.ts';

/** Points nearer than this share of the largest side are one place: exporters write the same point with different last digits. */
const SAME = 1e-6;

/** The place of each vertex: vertices at the same point have the same number, that of the first of them. */
export function placesOf(mesh: Pick<RayMesh, 'positions'>): Uint32Array {
  const { positions: p } = mesh;
  const box = boxOf([mesh]);
  const step = Math.max(1e-30, largestSide(box) * SAME);
  const snapped = new Int32Array(p.length);
  for (let i = 0; i < p.length; i++) snapped[i] = Math.round((p[i] - box[i % 3]) / step);
  return weldVertices([byteColumn(snapped, 3)], p.length / 3).first;
}

/** Normals of places, weighted by the angles of the faces around them, whatever splits the vertices; three a vertex. */
function smoothedNormals(mesh: RayMesh, places = placesOf(mesh)): Float64Array {
  const sums = new Float64Array(mesh.positions.length);
  const { indices } = mesh;
  for (let t = 0; t < mesh.triangles; t++) {
    const corners = [indices[t * 3], indices[t * 3 + 1], indices[t * 3 + 2]] as const;
    addByAngle(mesh.positions, corners, (k, x, y, z) => {
      const o = places[corners[k]] * 3;
      sums[o] += x;
      sums[o + 1] += y;
      sums[o + 2] += z;
    });
  }
  const out = new Float64Array(mesh.positions.length);
  for (let v = 0; v < places.length; v++) {
    const o = places[v] * 3;
    const l = Math.sqrt(sums[o] ** 2 + sums[o + 1] ** 2 + sums[o + 2] ** 2);
    for (let k = 0; k < 3; k++) out[v * 3 + k] = l > 0 ? sums[o + k] / l : 0;
  }
  return out;
}

/**
 * The way out of which rays come, at each corner, unit, three numbers. Method: reference, "Ray bake".
 * @param blend of `blended`: 0 smoothed, 1 own
 */
export function castDirections(mesh: RayMesh, mode: CastMode, blend: number): Float32Array {
  const out = new Float32Array(new SharedArrayBuffer(mesh.triangles * 36));
  const face = [0, 0, 0];
  const own = mode === 'own' || mode === 'blended' ? meshCornerNormals(mesh) : null;
  const smooth = mode === 'smoothed' || mode === 'blended' ? smoothedNormals(mesh) : null;
  const share = mode === 'blended' ? blend : mode === 'own' ? 1 : 0;
  for (let t = 0; t < mesh.triangles; t++) {
    faceNormal(mesh, t, face);
    for (let k = 0; k < 3; k++) {
      const c = t * 3 + k;
      const v = mesh.indices[c] * 3;
      let x = face[0];
      let y = face[1];
      let z = face[2];
      if (mode !== 'faceted') {
        const s = 1 - share;
        x = (own ? share * own[c * 3] : 0) + (smooth ? s * smooth[v] : 0);
        y = (own ? share * own[c * 3 + 1] : 0) + (smooth ? s * smooth[v + 1] : 0);
        z = (own ? share * own[c * 3 + 2] : 0) + (smooth ? s * smooth[v + 2] : 0);
      }
      const l = Math.sqrt(x * x + y * y + z * z);
      out[c * 3] = l > 1e-9 ? x / l : face[0];
      out[c * 3 + 1] = l > 1e-9 ? y / l : face[1];
      out[c * 3 + 2] = l > 1e-9 ? z / l : face[2];
    }
  }
  return out;
}
