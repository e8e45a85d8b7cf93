import { MeshoptTangents } from 'meshoptimizer/tangents';
import { perpendicular } from '../math/perpendicular.ts';

/** Must have resolved once before tangents are made. */
export const tangentsReady: Promise<void> = MeshoptTangents.ready;

/**
 * MikkTSpace tangents of unindexed corners: x y z and the sign of the bitangent for each. Where UVs give no direction, any
 * unit vector square to the normal is taken, so that the result is always a valid TANGENT.
 *
 * @param positions three for each corner @param normals unit, three for each corner @param uvs two for each corner, V down
 */
export function cornerTangents(positions: Float32Array, normals: Float32Array, uvs: Float32Array): Float32Array {
  const corners = positions.length / 3;
  if (corners === 0) return new Float32Array(0);
  const out = new Float32Array(
    MeshoptTangents.generateTangents(null, positions, 3, normals, 3, uvs, 2, ['Compatible']),
  );
  for (let i = 0; i < corners; i++) {
    const o = i * 4;
    const n = i * 3;
    let x = out[o];
    let y = out[o + 1];
    let z = out[o + 2];
    let l = Math.sqrt(x * x + y * y + z * z);
    const along = x * normals[n] + y * normals[n + 1] + z * normals[n + 2];
    if (!(l > 1e-6) || Math.abs(along) > 0.999 * l) {
      [x, y, z] = perpendicular(normals[n], normals[n + 1], normals[n + 2]);
      l = 1;
    }
    out[o] = x / l;
    out[o + 1] = y / l;
    out[o + 2] = z / l;
    // MikkTSpace takes V upwards; glTF's runs down, which turns the sign over.
    out[o + 3] = out[o + 3] < 0 ? 1 : -1;
  }
  return out;
}

/** Flat normals of unindexed corners; degenerate triangles get +Y. */
export function flatNormals(positions: Float32Array): Float32Array {
  const out = new Float32Array(positions.length);
  for (let i = 0; i < positions.length; i += 9) {
    const ux = positions[i + 3] - positions[i];
    const uy = positions[i + 4] - positions[i + 1];
    const uz = positions[i + 5] - positions[i + 2];
    const vx = positions[i + 6] - positions[i];
    const vy = positions[i + 7] - positions[i + 1];
    const vz = positions[i + 8] - positions[i + 2];
    let x = uy * vz - uz * vy;
    let y = uz * vx - ux * vz;
    let z = ux * vy - uy * vx;
    const l = Math.sqrt(x * x + y * y + z * z);
    if (l > 0) {
      x /= l;
      y /= l;
      z /= l;
    } else y = 1;
    for (let k = 0; k < 9; k += 3) {
      out[i + k] = x;
      out[i + k + 1] = y;
      out[i + k + 2] = z;
    }
  }
  return out;
}
