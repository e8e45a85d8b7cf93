import { convexHull, roughVolume } from './hull.ts';
import { extent, facePlane, type Polyhedron } from './polyhedron.ts';

export interface Triangles {
  /** (x, y, z), m */
  positions: ArrayLike<number>;
  /** Three for each triangle. */
  indices: ArrayLike<number>;
}

/** A part of a mesh, and the hull that stands for it. */
interface Piece {
  triangles: number[];
  hull: Polyhedron;
  /** How far the hull stands out from the surface of its triangles, m. */
  error: number;
  /** No cut takes it apart. */
  whole?: true;
}

export interface Pieces {
  hulls: Polyhedron[];
  /** The largest distance from a hull to the surface that it stands for, as a share of the mesh's longest side. */
  error: number;
}

/** Places along each axis at which a piece may be divided. */
const CUTS = 5;

/**
 * A mesh as convex solids: every triangle belongs to one piece, and a hull stands over it. The piece whose hull stands out farthest is divided
 * across one of the axes, where both hulls together are least, until no hull stands out by more than the share asked for, or there are
 * enough pieces ("Handing over", Collision).
 * @param share of the longest side, as 0.05
 */
export function convexPieces(mesh: Triangles, most: number, share: number): Pieces {
  const count = Math.floor(mesh.indices.length / 3);
  const size = extent(mesh.positions) || 1;
  const pieces = [
    pieceOf(
      mesh,
      Array.from({ length: count }, (_, i) => i),
    ),
  ];
  while (pieces.length < most) {
    let worst = -1;
    pieces.forEach((piece, i) => {
      if (!piece.whole && piece.error > share * size && (worst < 0 || piece.error > pieces[worst].error)) worst = i;
    });
    if (worst < 0) break;
    const halves = divided(mesh, pieces[worst]);
    if (halves) pieces.splice(worst, 1, ...halves);
    else pieces[worst].whole = true;
  }
  return { hulls: pieces.map(({ hull }) => hull), error: Math.max(...pieces.map(({ error }) => error)) / size };
}

function pieceOf(mesh: Triangles, list: number[]): Piece {
  const hull = convexHull(cornersOf(mesh, list));
  return { triangles: list, hull, error: standsOut(mesh, list, hull) };
}

/** The corners of some triangles, each vertex once. */
function cornersOf({ positions, indices }: Triangles, list: readonly number[]): Float64Array {
  const vertices = new Set<number>();
  for (const t of list) for (let c = 0; c < 3; c++) vertices.add(indices[3 * t + c]);
  const out = new Float64Array(vertices.size * 3);
  let at = 0;
  for (const v of vertices) for (let k = 0; k < 3; k++) out[at++] = positions[3 * v + k];
  return out;
}

/** Distances of triangles to planes that are measured for a piece; of more, evenly many are left out. */
const MOST_DISTANCES = 4e6;

/** How far a surface lies inside of the hull around it, m: the largest distance from the middle of a triangle to the hull. */
function standsOut({ positions, indices }: Triangles, list: readonly number[], hull: Polyhedron): number {
  const planes = hull.faces.map((face) => facePlane(hull, face));
  const stride = Math.max(1, Math.ceil((list.length * planes.length) / MOST_DISTANCES));
  let most = 0;
  for (let i = 0; i < list.length; i += stride) {
    const t = list[i];
    let [x, y, z] = [0, 0, 0];
    for (let c = 0; c < 3; c++) {
      const v = 3 * indices[3 * t + c];
      x += positions[v] / 3;
      y += positions[v + 1] / 3;
      z += positions[v + 2] / 3;
    }
    let inside = Infinity;
    for (const [nx, ny, nz, d] of planes) inside = Math.min(inside, d - (nx * x + ny * y + nz * z));
    most = Math.max(most, inside);
  }
  return most;
}

/** The two pieces of least volume that a plane across an axis makes; null where every triangle falls on one side. */
function divided(mesh: Triangles, { triangles }: Piece): Piece[] | null {
  let best: { lists: [number[], number[]]; volume: number } | null = null;
  for (let axis = 0; axis < 3; axis++) {
    const middles = triangles.map((triangle) => middleOf(mesh, triangle, axis));
    let [low, high] = [Infinity, -Infinity];
    for (const middle of middles) {
      low = Math.min(low, middle);
      high = Math.max(high, middle);
    }
    for (let cut = 1; cut <= CUTS; cut++) {
      const at = low + ((high - low) * cut) / (CUTS + 1);
      const lists: [number[], number[]] = [[], []];
      triangles.forEach((triangle, i) => {
        lists[middles[i] < at ? 0 : 1].push(triangle);
      });
      if (lists.some((list) => list.length === 0)) continue;
      const both = lists.reduce((sum, list) => sum + roughVolume(cornersOf(mesh, list)), 0);
      if (!best || both < best.volume) best = { lists, volume: both };
    }
  }
  return best?.lists.map((list) => pieceOf(mesh, list)) ?? null;
}

function middleOf({ positions, indices }: Triangles, t: number, axis: number): number {
  let sum = 0;
  for (let c = 0; c < 3; c++) sum += positions[3 * indices[3 * t + c] + axis];
  return sum / 3;
}
