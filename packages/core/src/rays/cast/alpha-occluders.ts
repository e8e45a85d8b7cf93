import { HitSurface, type SourceTextures } from '../target/hit-surface.ts';
import type { RayMesh } from '../target/ray-mesh.ts';

/** A high-poly among all that AO sees, some of whose materials are alpha-tested; plain data and shared memory. */
export interface AlphaOccluder {
  /** Its first triangle in the hierarchy of all, and the one after its last. */
  from: number;
  to: number;
  mesh: RayMesh;
  /** At least the base colours of its alpha-tested materials. */
  textures: SourceTextures;
}

/** Whether some material of a mesh may cut something away. */
export const isAlphaOccluder = (mesh: RayMesh): boolean => mesh.sources.some((s) => s.look.alphaMode === 'MASK');

/** Several meshes as one, in shared memory. @returns also the first triangle of each */
export function joinedMesh(meshes: readonly RayMesh[]): Pick<RayMesh, 'positions' | 'indices'> & { from: number[] } {
  const vertices = meshes.reduce((n, m) => n + m.positions.length / 3, 0);
  const triangles = meshes.reduce((n, m) => n + m.triangles, 0);
  const positions = new Float32Array(new SharedArrayBuffer(vertices * 12));
  const indices = new Uint32Array(new SharedArrayBuffer(triangles * 12));
  const from: number[] = [];
  let v = 0;
  let t = 0;
  for (const m of meshes) {
    from.push(t);
    positions.set(m.positions, v * 3);
    for (let i = 0; i < m.indices.length; i++) indices[t * 3 + i] = m.indices[i] + v;
    v += m.positions.length / 3;
    t += m.triangles;
  }
  return { positions, indices, from };
}

/** Says of places in a joined mesh whether an alpha-tested material cuts them away; null where none does. One a worker. */
export function clearIn(
  occluders: readonly AlphaOccluder[],
): ((triangle: number, u: number, v: number) => boolean) | null {
  if (occluders.length === 0) return null;
  const surfaces = occluders.map((s) => ({ ...s, surface: new HitSurface(s.mesh, s.textures) }));
  return (triangle, u, v) => {
    const occluder = surfaces.find((s) => triangle >= s.from && triangle < s.to);
    return occluder?.surface.isClear(triangle - occluder.from, u, v) ?? false;
  };
}
