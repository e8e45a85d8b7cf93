import type { CollisionKind } from '../decisions/collision.ts';
import { convexHull } from './hull.ts';
import { limitFaces } from './limit-faces.ts';
import { orientedBox } from './oriented-box.ts';
import { convexPieces, type Triangles } from './pieces.ts';
import { extent, farthestOutsideAll, type Polyhedron, volume } from './polyhedron.ts';
import {
  type Capsule,
  capsuleSolid,
  enclosingCapsule,
  enclosingSphere,
  type Sphere,
  sphereSolid,
} from './round-shapes.ts';

export interface CollisionSpec {
  as: CollisionKind;
  /** Most flat faces of each hull. */
  faces: number;
  /** Most convex pieces. */
  pieces: number;
}

/** How far a hull of a piece may stand out, as a share of the longest side, before the piece is divided. */
const PIECE_ERROR = 0.05;

export interface CollisionShapes {
  solids: Polyhedron[];
  /** Exact measures of a round shape. */
  round: Sphere | Capsule | null;
  /** Volume of all solids, and of the convex hull of the same surface, m³. */
  volume: number;
  hullVolume: number;
  /** How far the farthest vertex lies from the nearest solid, as a share of the longest side. */
  outside: number;
  /** For pieces, how far a hull stands out from the surface, as a share of the longest side. */
  error: number | null;
}

/** The collision shapes of a surface ("Handing over", Collision). Every vertex lies inside of them. */
export function collisionShapes(mesh: Triangles, spec: CollisionSpec): CollisionShapes {
  const points = usedPoints(mesh);
  const hull = convexHull(points);
  const made = shapesOf(mesh, hull, spec);
  const size = extent(points) || 1;
  return {
    ...made,
    volume: made.solids.reduce((sum, solid) => sum + volume(solid), 0),
    hullVolume: volume(hull),
    outside: farthestOutsideAll(made.solids, points) / size,
  };
}

/** What holds the corners of the hull holds every vertex. */
function shapesOf(
  mesh: Triangles,
  hull: Polyhedron,
  { as, faces, pieces }: CollisionSpec,
): Pick<CollisionShapes, 'solids' | 'round' | 'error'> {
  if (as === 'box') return { solids: [orientedBox(hull.corners)], round: null, error: null };
  if (as === 'sphere') {
    const sphere = enclosingSphere(hull.corners);
    return { solids: [sphereSolid(sphere)], round: sphere, error: null };
  }
  if (as === 'capsule') {
    const capsule = enclosingCapsule(hull.corners);
    return { solids: [capsuleSolid(capsule)], round: capsule, error: null };
  }
  if (as === 'hull') return { solids: [limitFaces(hull, faces)], round: null, error: null };
  const { hulls, error } = convexPieces(mesh, pieces, PIECE_ERROR);
  return { solids: hulls.map((one) => limitFaces(one, faces)), round: null, error };
}

/** The vertices that triangles use, each once. */
function usedPoints({ positions, indices }: Triangles): Float64Array {
  const used = new Set<number>();
  for (let i = 0; i < indices.length; i++) used.add(indices[i]);
  const out = new Float64Array(used.size * 3);
  let at = 0;
  for (const v of used) for (let k = 0; k < 3; k++) out[at++] = positions[3 * v + k];
  return out;
}
