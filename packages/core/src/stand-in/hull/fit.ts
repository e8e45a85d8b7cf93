import type { Bvh } from '@wembrel/kernels/bvh-layout';
import { ClosestPoint } from '@wembrel/kernels/closest-point';
import type { LightMesh } from '../light-mesh.ts';
import { HALF_THICKNESS, type HullGrid } from './field.ts';
import { type Rings, ringsOf, triangleNormal } from './rings.ts';

/** A vertex farther from the surface than so many cells closes a hole and stays. */
const REACH = 1.2;
/** How far behind a point of the source is looked whether it is solid there, in cells. */
const DEPTH = 1;
/** A vertex nearer to a sheet than this, in cells, has no side. */
const LEAST_AWAY = 0.02;
/** A vertex is pulled to an edge or corner no farther than this, in cells. */
const PULL = 1;
/** Cosine of the angle between faces from which on there is an edge to be kept. */
const EDGE = 0.8;
/** A triangle may turn no farther than this (cosine) when one of its vertices moves. */
const TURN = 0.2;
/** Least area that a triangle may be left with, in squares of a cell. */
const LEAST_AREA = 1e-4;
/** How much a vertex holds on to its place where planes leave it free. */
const HOLD = 0.02;

/** What a contour is fitted to. */
export interface FitTo {
  source: LightMesh;
  bvh: Bvh;
  grid: HullGrid;
  /** Of the grid's nodes, as the contour was made from it. */
  field: Float32Array;
}

/** Where each vertex was projected to: the point of the source, and its face's normal; 0 where it stays. */
interface Feet {
  points: Float64Array;
  normals: Float64Array;
}

/**
 * Moves the vertices of a contour onto the source, and those beside a sharp edge or corner onto it, as far as the grid allows. Sheets keep the least thickness,
 * closed holes stay. A move after which some triangle would turn over or lose its area is undone; nothing but places changes.
 */
export function fitToSource(mesh: LightMesh, to: FitTo): LightMesh {
  const positions = Float64Array.from(mesh.positions);
  const rings = ringsOf(mesh);
  const feet = feetOf(mesh, to);
  const move = (v: number, target: readonly number[]) =>
    moveUnlessFolded(positions, mesh.indices, rings, { v, target, cell: to.grid.cell });
  const count = positions.length / 3;
  for (let v = 0; v < count; v++) {
    const [x, y, z] = feet.points.subarray(v * 3, v * 3 + 3);
    if (hasFoot(feet, v)) move(v, [x, y, z]);
  }
  for (let v = 0; v < count; v++) {
    const corner = cornerNear(v, { positions, mesh, rings, feet, cell: to.grid.cell });
    if (corner) move(v, corner);
  }
  return { positions: Float32Array.from(positions), indices: mesh.indices };
}

const hasFoot = ({ normals }: Feet, v: number): boolean =>
  normals[v * 3] !== 0 || normals[v * 3 + 1] !== 0 || normals[v * 3 + 2] !== 0;

/** The source's points under all vertices; none where a hole is closed or a sheet has to keep its thickness. */
function feetOf({ positions: p }: LightMesh, to: FitTo): Feet {
  const { source, bvh, grid } = to;
  const { cell } = grid;
  const closest = new ClosestPoint(bvh);
  const feet: Feet = { points: new Float64Array(p.length), normals: new Float64Array(p.length) };
  const n = [0, 0, 0];
  for (let v = 0; v < p.length; v += 3) {
    if (!closest.find(p[v], p[v + 1], p[v + 2], REACH * cell)) continue;
    const { x, y, z, triangle } = closest;
    const away = [p[v] - x, p[v + 1] - y, p[v + 2] - z];
    const [a, b, c] = source.indices.subarray(triangle * 3, triangle * 3 + 3);
    const area = triangleNormal(source.positions, [a, b, c], -1, n, n);
    if (!(area > 0)) continue;
    const side = away[0] * n[0] + away[1] * n[1] + away[2] * n[2] < 0 ? -1 : 1;
    const solid = solidBehind([x, y, z], [p[v], p[v + 1], p[v + 2]], to);
    const length = Math.hypot(...away);
    // A sheet, or a part thinner than the least thickness, keeps half of that on either side.
    if (!solid && length < LEAST_AWAY * cell) continue;
    const lift = solid ? 0 : (HALF_THICKNESS * cell) / length;
    feet.points.set([x + away[0] * lift, y + away[1] * lift, z + away[2] * lift], v);
    feet.normals.set(
      n.map((value) => (value / area) * side),
      v,
    );
  }
  return feet;
}

/** Whether some node behind a foot, against the way in which the field grows, lies deeper inside than a sheet can, or is out of reach of everything. */
function solidBehind(foot: readonly number[], vertex: readonly number[], { grid, field }: FitTo): boolean {
  const { origin, size, cell } = grid;
  const index = (at: readonly number[]) => (at[2] * size[1] + at[1]) * size[0] + at[0];
  const inner = (v: number, k: number) => Math.max(1, Math.min(size[k] - 2, v));
  const middle = vertex.map((v, k) => inner(Math.round((v - origin[k]) / cell), k));
  const steps = [1, size[0], size[0] * size[1]];
  const way = steps.map((step) => field[index(middle) + step] - field[index(middle) - step]);
  const length = Math.hypot(...way) || 1;
  const first = foot.map((v, k) => inner(Math.floor((v - (way[k] / length) * DEPTH * cell - origin[k]) / cell), k));
  for (let c = 0; c < 8; c++)
    if (
      field[index([first[0] + (c & 1), first[1] + ((c >> 1) & 1), first[2] + (c >> 2)])] <
      -HALF_THICKNESS * cell * 1.001
    )
      return true;
  return false;
}

interface CornerInput {
  positions: Float64Array;
  mesh: LightMesh;
  rings: Rings;
  feet: Feet;
  cell: number;
}

/** Where the planes under a vertex and its neighbours meet, if they bend: the nearest point to all of them (quadric error); null elsewhere. */
function cornerNear(v: number, { positions, mesh, rings, feet, cell }: CornerInput): number[] | null {
  if (!hasFoot(feet, v)) return null;
  const around = new Set<number>();
  for (let r = rings.from[v]; r < rings.from[v + 1]; r++)
    for (let k = 0; k < 3; k++) around.add(mesh.indices[rings.list[r] * 3 + k]);
  const own = feet.normals.subarray(v * 3, v * 3 + 3);
  let bends = false;
  const m = new Float64Array(9);
  const rhs = new Float64Array(3);
  for (const w of around) {
    if (!hasFoot(feet, w)) continue;
    const n = feet.normals.subarray(w * 3, w * 3 + 3);
    if (n[0] * own[0] + n[1] * own[1] + n[2] * own[2] < EDGE) bends = true;
    const d = n[0] * feet.points[w * 3] + n[1] * feet.points[w * 3 + 1] + n[2] * feet.points[w * 3 + 2];
    for (let i = 0; i < 3; i++) {
      rhs[i] += n[i] * d;
      for (let j = 0; j < 3; j++) m[i * 3 + j] += n[i] * n[j];
    }
  }
  if (!bends) return null;
  for (let i = 0; i < 3; i++) {
    m[i * 4] += HOLD;
    rhs[i] += HOLD * positions[v * 3 + i];
  }
  const at = solve3(m, rhs);
  const moved = at && Math.hypot(at[0] - positions[v * 3], at[1] - positions[v * 3 + 1], at[2] - positions[v * 3 + 2]);
  return at && moved !== null && moved <= PULL * cell ? at : null;
}

/** Cramer's rule; null where the planes do not fix a point. */
export function solve3(m: ArrayLike<number>, r: ArrayLike<number>): [number, number, number] | null {
  const c0 = m[4] * m[8] - m[5] * m[7];
  const c1 = m[5] * m[6] - m[3] * m[8];
  const c2 = m[3] * m[7] - m[4] * m[6];
  const det = m[0] * c0 + m[1] * c1 + m[2] * c2;
  const size = Math.max(Math.abs(m[0]), Math.abs(m[4]), Math.abs(m[8]));
  if (!(Math.abs(det) > 1e-9 * size ** 3)) return null;
  return [
    (r[0] * c0 + r[1] * (m[2] * m[7] - m[1] * m[8]) + r[2] * (m[1] * m[5] - m[2] * m[4])) / det,
    (r[0] * c1 + r[1] * (m[0] * m[8] - m[2] * m[6]) + r[2] * (m[2] * m[3] - m[0] * m[5])) / det,
    (r[0] * c2 + r[1] * (m[1] * m[6] - m[0] * m[7]) + r[2] * (m[0] * m[4] - m[1] * m[3])) / det,
  ];
}

function moveUnlessFolded(
  positions: Float64Array,
  indices: Uint32Array,
  rings: Rings,
  { v, target, cell }: { v: number; target: readonly number[]; cell: number },
): boolean {
  const before = [0, 0, 0];
  const after = [0, 0, 0];
  for (let r = rings.from[v]; r < rings.from[v + 1]; r++) {
    const t = rings.list[r] * 3;
    const corners = [indices[t], indices[t + 1], indices[t + 2]] as const;
    const was = triangleNormal(positions, corners, -1, target, before);
    const is = triangleNormal(positions, corners, v, target, after);
    const cosine = before[0] * after[0] + before[1] * after[1] + before[2] * after[2];
    if (is < LEAST_AREA * cell * cell || cosine < TURN * was * is) return false;
  }
  positions.set(target, v * 3);
  return true;
}
