import type { FaceEditOf } from '../decisions/face-decisions.ts';
import { DisjointSet } from '../math/disjoint-set.ts';
import { cosineAt, type Surface, sideEnds, surfaceOf } from '../mesh/surface.ts';
import { byteColumn, weldVertices } from '../mesh/weld.ts';
import { type Chosen, type FaceTable, writableUv } from './face-table.ts';

export interface SplitFigures {
  /** Islands with chosen faces, before and after. */
  before: number;
  after: number;
}

/** An edge of an island: its ends as points of the UVs, and the sides (triangle · 3 + k) that run along it. */
interface Seam {
  ends: [number, number];
  sides: number[];
}

/**
 * Splits islands where chosen faces meet others and where the surface bends by more. The pieces move to the right by whole repeats of the
 * texture, so that they show what they showed; pieces that touched come to lie in different repeats.
 * @param period whole numbers after which the texture of a face is the same again, to the right
 */
export function splitIslands(
  chosen: readonly Chosen[],
  edit: FaceEditOf<'split'>,
  period: (c: Chosen, face: number) => number,
): SplitFigures {
  const out: SplitFigures = { before: 0, after: 0 };
  const limit = Math.cos((edit.bend * Math.PI) / 180) - 1e-9;
  for (const c of chosen) {
    const { table } = c;
    const uv = writableUv(table, edit.set);
    const mine = new Uint8Array(table.faces);
    for (const face of c.faces) mine[face] = 1;
    const points = pointsOf(table, uv);
    const surface = surfaceOf(table.positions, table.indices);
    const isCut = cutsBetween(surface, mine, limit);
    const whole = new DisjointSet(table.faces);
    const pieces = new DisjointSet(table.faces);
    const onCut = new Set<number>();
    for (const { ends, sides } of seamsOf(table.faces, points)) {
      const [first, ...rest] = sides;
      for (const side of rest)
        if (isCut(first, side)) for (const end of ends) onCut.add(end);
        else pieces.join(faceOf(first), faceOf(side));
    }
    // Faces that meet in a point alone belong together, as long as no cut runs through it.
    const known = new Map<number, number>();
    points.forEach((point, corner) => {
      const [f, other] = [faceOf(corner), known.get(point)];
      if (other === undefined) {
        known.set(point, f);
        return;
      }
      whole.join(other, f);
      if (!onCut.has(point) && mine[other] === mine[f]) pieces.join(other, f);
    });
    const moves = movesOf(table.faces, points, mine, pieces);
    const rootsOf = (sets: DisjointSet) => new Set(Array.from(c.faces, (face) => sets.find(face))).size;
    out.before += rootsOf(whole);
    out.after += rootsOf(pieces);
    for (const face of c.faces) {
      const by = (moves.get(pieces.find(face)) ?? 0) * period(c, face);
      if (by !== 0) for (let k = 0; k < 3; k++) uv[(face * 3 + k) * 2] += by;
    }
  }
  return out;
}

const faceOf = (corner: number): number => Math.floor(corner / 3);

/** A number for each corner; those that agree in place and UV have the same. */
function pointsOf(table: FaceTable, uv: Float32Array): Uint32Array {
  const { first } = weldVertices([byteColumn(table.positions, 3)], table.positions.length / 3);
  const places = Uint32Array.from(table.indices, (v) => first[v]);
  return weldVertices([byteColumn(places, 1), byteColumn(uv, 2)], table.faces * 3).first;
}

/** Edges that several faces share in the UVs. */
function seamsOf(faces: number, points: Uint32Array): Seam[] {
  const byEnds = new Map<number, Seam>();
  for (let side = 0; side < faces * 3; side++) {
    const [a, b] = sideEnds(points, side);
    if (a === b) continue;
    const [low, high] = a < b ? [a, b] : [b, a];
    const key = low * (faces * 3) + high;
    const seam = byEnds.get(key);
    if (seam) seam.sides.push(side);
    else byEnds.set(key, { ends: [low, high], sides: [side] });
  }
  return [...byEnds.values()].filter((byEnd) => byEnd.sides.length > 1);
}

/** Whether a cut runs between two faces that share an edge, named by their sides there. */
const cutsBetween =
  (surface: Surface, mine: Uint8Array, limit: number) =>
  (a: number, b: number): boolean => {
    const [f, g] = [faceOf(a), faceOf(b)];
    if (mine[f] !== mine[g]) return true;
    return mine[f] === 1 && surface.areas[f] > 0 && surface.areas[g] > 0 && cosineAt(surface, a, b) < limit;
  };

/** By how many repeats each piece moves, by its first face: large ones first, as little as keeps it from what it touches. */
function movesOf(faces: number, points: Uint32Array, mine: Uint8Array, pieces: DisjointSet): Map<number, number> {
  const sizes = new Map<number, number>();
  const around = new Map<number, number[]>();
  for (let corner = 0; corner < faces * 3; corner++) {
    const root = pieces.find(faceOf(corner));
    sizes.set(root, (sizes.get(root) ?? 0) + 1);
    const list = around.get(points[corner]);
    if (!list) around.set(points[corner], [root]);
    else if (!list.includes(root)) list.push(root);
  }
  const touching = new Map<number, Set<number>>();
  for (const list of around.values())
    for (const a of list)
      for (const b of list) {
        if (a === b) continue;
        const set = touching.get(a) ?? new Set();
        touching.set(a, set.add(b));
      }
  const out = new Map<number, number>();
  const order = [...sizes.keys()].sort((a, b) => (sizes.get(b) ?? 0) - (sizes.get(a) ?? 0) || a - b);
  // What is not chosen stays where it is.
  for (const root of order) if (!mine[root]) out.set(root, 0);
  for (const root of order) {
    if (!mine[root]) continue;
    const taken = new Set([...(touching.get(root) ?? [])].map((r) => out.get(r)));
    let move = 0;
    while (taken.has(move)) move++;
    out.set(root, move);
  }
  return out;
}
