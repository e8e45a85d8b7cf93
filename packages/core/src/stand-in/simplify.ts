import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { compacted, type LightMesh } from './light-mesh.ts';

/** How far a surface is reduced. */
export type SimplifyGoal =
  /** Triangles at the most. */
  | { triangles: number }
  /** How far it may move, m. */
  | { metres: number };

/** Before simplifying: meshopt is ready when this is. */
export const simplifierReady = MeshoptSimplifier.ready;

/**
 * Collapses edges where the surface changes least (quadric errors, Garland & Heckbert 1997, as the library has them); small loose pieces go when
 * they are smaller than the error. Where open borders and folds hold out against the goal, they may be collapsed as well.
 */
export function simplified(mesh: LightMesh, goal: SimplifyGoal): LightMesh {
  const scale = MeshoptSimplifier.getScale(mesh.positions, 3);
  const most = 'triangles' in goal ? Math.max(1, Math.floor(goal.triangles)) * 3 : 0;
  const error = 'metres' in goal ? goal.metres / Math.max(scale, 1e-30) : 1;
  if ('triangles' in goal && mesh.indices.length <= most) return mesh;
  const run = (flags: ('Prune' | 'Permissive')[]) =>
    MeshoptSimplifier.simplify(mesh.indices, mesh.positions, 3, most, error, flags)[0];
  let indices = run(['Prune']);
  if ('triangles' in goal && indices.length > most) indices = run(['Prune', 'Permissive']);
  return compacted({ positions: mesh.positions, indices });
}
