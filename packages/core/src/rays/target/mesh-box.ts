import type { RayMesh } from './ray-mesh.ts';

/** Box of a mesh: low x y z, high x y z; zeros when it is empty. */
export function boxOf(meshes: readonly Pick<RayMesh, 'positions'>[]): [number, number, number, number, number, number] {
  const b: [number, number, number, number, number, number] = [
    Infinity,
    Infinity,
    Infinity,
    -Infinity,
    -Infinity,
    -Infinity,
  ];
  for (const { positions: p } of meshes)
    for (let i = 0; i < p.length; i++) {
      const k = i % 3;
      if (p[i] < b[k]) b[k] = p[i];
      if (p[i] > b[k + 3]) b[k + 3] = p[i];
    }
  return Number.isFinite(b[0]) ? b : [0, 0, 0, 0, 0, 0];
}

/** Largest side of a box. */
export const largestSide = (b: readonly number[]): number => Math.max(b[3] - b[0], b[4] - b[1], b[5] - b[2]);
