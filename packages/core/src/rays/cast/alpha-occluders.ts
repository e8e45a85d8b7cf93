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
export const isAlphaOccluder = (mesh: RayMesh): boolean =>
  mesh.sources.some((source) => source.look.alphaMode === 'MASK');

/** Several meshes as one, in shared memory. @returns also the first triangle of each */
export function joinedMesh(meshes: readonly RayMesh[]): Pick<RayMesh, 'positions' | 'indices'> & { from: number[] } {
  const vertices = meshes.reduce((sum, mesh) => sum + mesh.positions.length / 3, 0);
  const triangles = meshes.reduce((sum, mesh) => sum + mesh.triangles, 0);
  const positions = new Float32Array(new SharedArrayBuffer(vertices * 12));
  const indices = new Uint32Array(new SharedArrayBuffer(triangles * 12));
  const from: number[] = [];
  let v = 0;
  let t = 0;
  for (const mesh of meshes) {
    from.push(t);
    positions.set(mesh.positions, v * 3);
    for (let i = 0; i < mesh.indices.length; i++) indices[t * 3 + i] = mesh.indices[i] + v;
    v += mesh.positions.length / 3;
    t += mesh.triangles;
  }
  return { positions, indices, from };
}

/** Says of places in a joined mesh whether an alpha-tested material cuts them away; null where none does. One a worker. */
export function clearIn(
  occluders: readonly AlphaOccluder[],
): ((triangle: number, u: number, v: number) => boolean) | null {
  if (occluders.length === 0) return null;
  const surfaces = occluders.map((occluder) => ({
    ...occluder,
    surface: new HitSurface(occluder.mesh, occluder.textures),
  }));
  return (triangle, u, v) => {
    const occluder = surfaces.find((surface) => triangle >= surface.from && triangle < surface.to);
    return occluder?.surface.isClear(triangle - occluder.from, u, v) ?? false;
  };
}
