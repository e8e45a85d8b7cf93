import { twinHalfEdges } from '../../math/half-edges.ts';
import { byteColumn, weldVertices } from '../../mesh/weld.ts';
import type { FaultKind } from '../maps/fault-kinds.ts';
import { placesOf } from '../target/casting.ts';
import type { LowTarget } from '../target/low-target.ts';
import { faceNormal, type RayMesh } from '../target/ray-mesh.ts';

/** An edge or face of a low-poly that will show. */
export interface MeshFault {
  kind: FaultKind;
  /** Triangle, and the corner from which the edge runs to the next; −1 for a whole face. */
  triangle: number;
  corner: number;
}

/** Turn from which on an edge is too steep to be smoothed over: 80°. */
const STEEP = Math.cos((80 * Math.PI) / 180) + 1e-6;
/** Normals on both sides of an edge that differ by more than 1° are split. */
const SPLIT = Math.cos(Math.PI / 180);

/** Edges whose normals, UVs and turn do not go together: steep smooth edges, and hard edges without a UV border. */
export function edgeFaults(target: LowTarget, uvSet: number): MeshFault[] {
  const { mesh, normals } = target;
  const places = placesOf(mesh);
  const twin = twinHalfEdges(mesh.indices.map((v) => places[v]));
  const uv = mesh.uvs[uvSet];
  const uvPlaces = uv ? weldVertices([byteColumn(mesh.positions, 3), byteColumn(uv, 2)], uv.length / 2).first : places;
  const out: MeshFault[] = [];
  const [a, b] = [
    [0, 0, 0],
    [0, 0, 0],
  ];
  for (let s = 0; s < twin.length; s++) {
    const r = twin[s];
    if (r < s) continue;
    const [t, u] = [Math.floor(s / 3), Math.floor(r / 3)];
    if (faceNormal(mesh, t, a) === 0 || faceNormal(mesh, u, b) === 0) continue;
    const next = (i: number) => (i % 3 === 2 ? i - 2 : i + 1);
    // The side beyond runs the other way, unless faces are turned against each other.
    const turned = places[mesh.indices[s]] === places[mesh.indices[r]];
    const [s0, s1] = [s, next(s)];
    const [r0, r1] = turned ? [r, next(r)] : [next(r), r];
    const alike = (i: number, j: number) => {
      let d = 0;
      for (let k = 0; k < 3; k++) d += normals[i * 3 + k] * normals[j * 3 + k];
      return d >= SPLIT;
    };
    const split = !alike(s0, r0) || !alike(s1, r1);
    const bent = a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
    if (!split && bent <= STEEP) out.push({ kind: 'steep smooth edge', triangle: t, corner: s - t * 3 });
    const joined =
      uvPlaces[mesh.indices[s0]] === uvPlaces[mesh.indices[r0]] &&
      uvPlaces[mesh.indices[s1]] === uvPlaces[mesh.indices[r1]];
    if (split && joined) out.push({ kind: 'unsplit hard edge', triangle: t, corner: s - t * 3 });
  }
  return out;
}

/** The cage of a target: its surface, moved out by its reaches; vertices by corner. */
export function cageMesh(target: LowTarget): { positions: Float32Array; indices: Uint32Array } {
  const { mesh, directions, outward } = target;
  const positions = new Float32Array(mesh.triangles * 9);
  for (let c = 0; c < mesh.triangles * 3; c++) {
    const v = mesh.indices[c] * 3;
    for (let k = 0; k < 3; k++) positions[c * 3 + k] = mesh.positions[v + k] + directions[c * 3 + k] * outward[c];
  }
  return { positions, indices: Uint32Array.from({ length: mesh.triangles * 3 }, (_, i) => i) };
}

/** Faces of the cage that are turned over against the surface that they come from. */
export function turnedOver(target: LowTarget, cage: { positions: Float32Array; indices: Uint32Array }): MeshFault[] {
  const out: MeshFault[] = [];
  const [a, b] = [
    [0, 0, 0],
    [0, 0, 0],
  ];
  const moved = { ...cage } as Pick<RayMesh, 'positions' | 'indices'>;
  for (let t = 0; t < target.count; t++) {
    if (faceNormal(target.mesh, t, a) === 0 || faceNormal(moved, t, b) === 0) continue;
    if (a[0] * b[0] + a[1] * b[1] + a[2] * b[2] < 0)
      out.push({ kind: 'cage crossing itself', triangle: t, corner: -1 });
  }
  return out;
}
