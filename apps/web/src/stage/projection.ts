import type { ProjectedPart } from '@wembrel/core/select/outline';
import { BackSide, DoubleSide, Matrix4, type PerspectiveCamera, Vector3, Vector4 } from 'three';
import type { Placed } from './placed.ts';

/** Triangles of a part as the camera shows them, numbered as in its file. */
export type ShownPart = Omit<ProjectedPart, 'faces'> & { part: number; triangles: Uint32Array };

/** All triangles that are drawn, in px of a picture of some size; hidden faces are not among them. */
export function projectedParts(
  placed: readonly Placed[],
  camera: PerspectiveCamera,
  width: number,
  height: number,
): ShownPart[] {
  return placed
    .filter((one) => one.mesh.visible)
    .map((one) => {
      const { mesh } = one;
      const { geometry } = mesh;
      const index = geometry.getIndex();
      const corners = index?.count ?? geometry.getAttribute('position').count;
      const indices = Uint32Array.from({ length: corners - (corners % 3) }, (_, i) => (index ? index.getX(i) : i));
      return {
        part: one.part,
        points: pointsOf(one, camera, width, height),
        indices,
        triangles: one.cut?.shown ?? Uint32Array.from({ length: indices.length / 3 }, (_, t) => t),
        front: frontOf(one),
      };
    });
}

function pointsOf({ mesh }: Placed, camera: PerspectiveCamera, width: number, height: number): Float32Array {
  const toClip = new Matrix4()
    .multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse)
    .multiply(mesh.matrixWorld);
  const { count } = mesh.geometry.getAttribute('position');
  const out = new Float32Array(count * 3);
  const [local, clip] = [new Vector3(), new Vector4()];
  for (let v = 0; v < count; v++) {
    // Skins and morphs move vertices.
    mesh.getVertexPosition(v, local);
    clip.set(local.x, local.y, local.z, 1).applyMatrix4(toClip);
    if (clip.w <= 0) out.fill(Number.NaN, v * 3, v * 3 + 3);
    else {
      out[v * 3] = (0.5 + clip.x / clip.w / 2) * width;
      out[v * 3 + 1] = (0.5 - clip.y / clip.w / 2) * height;
      out[v * 3 + 2] = 0.5 + clip.z / clip.w / 2;
    }
  }
  return out;
}

/** Mirrored placings turn what is front. */
function frontOf({ mesh }: Placed): -1 | 0 | 1 {
  const [material] = [mesh.material].flat();
  if (material.side === DoubleSide) return 0;
  return mesh.matrixWorld.determinant() < 0 === (material.side === BackSide) ? 1 : -1;
}
