import type { FaceEditOf } from '../decisions/face-decisions.ts';
import { type Surface, surfaceOf } from '../mesh/surface.ts';
import type { TextureLay } from '../scene/texture-lay.ts';
import { quadFaces } from '../tiles/map-tiles.ts';
import { mixTiles, mixTurns } from '../tiles/mix.ts';
import { axesAcross } from '../unwrap/flatten.ts';
import { type Chosen, cornersOf, type FaceTable, hasUv, writableUv } from './face-table.ts';

export interface CellFigures {
  /** Faces that took a cell: quads, and triangles that are no half of one. */
  quads: number;
  triangles: number;
  /** Faces of each slot of the mix, then of the transition. */
  taken: { slot: string; faces: number }[];
}

/** A slot whose whole texture is a cell: its picture's width and height, px, and how it is laid. */
export interface Cell {
  slot: number;
  picture: [number, number];
  lay: TextureLay;
}

/** The other side of a transition: its slot, and whether it begins beyond a side of a face. */
export interface Edge extends Cell {
  /** @param from, to ends of the side (x, y, z) */
  beginsBeyond(chosen: Chosen, from: Place, to: Place): boolean;
}

type Place = readonly [number, number, number];

/** Corners of a cell around, seen from outside with V up, from the lower left. */
const CORNERS = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
] as const;

/**
 * Gives every face a whole texture: quads corner to corner. Which way up follows the UVs that are there, else the surface: up is up, on
 * floors the way of −z.
 * @param cells the slots of the mix
 */
export function mapOntoCells(
  chosen: readonly Chosen[],
  edit: FaceEditOf<'cells'>,
  cells: readonly Cell[],
  edge: Edge | null = null,
): CellFigures {
  const work = chosen.map((chosen) => {
    const indices = cornersOf(chosen);
    return {
      c: chosen,
      surface: surfaceOf(chosen.table.positions, indices),
      faces: quadFaces({ positions: chosen.table.positions, indices }),
    };
  });
  const count = work.reduce((sum, w) => sum + w.faces.length, 0);
  const parts = edit.mix.map((variant) => ({ tile: variant.slot, share: variant.share }));
  const taken = mixTiles(parts, count, edit.seed);
  const dealt = mixTurns(count, edit.seed);
  const mirrored = mixTurns(count, edit.seed ^ 0x3c6ef372);
  const figures: CellFigures = {
    quads: 0,
    triangles: 0,
    taken: edit.mix.map((variant, i) => ({
      slot: variant.slot,
      faces: taken.reduce((sum, v) => sum + Number(v === i), 0),
    })),
  };
  let at = 0;
  let atEdge = 0;
  for (const { c: chosen, surface, faces } of work) {
    const known = hasUv(chosen, 0) ? chosen.table.uvs[0] : null;
    const old = known ? known.slice() : null;
    chosen.table.wroteSlots = true;
    for (const face of faces) {
      const turn = edit.turns === 'none' ? 0 : edit.turns === 'half' ? (dealt[at] & 1) * 2 : dealt[at];
      const mirror = edit.mirror && (mirrored[at] & 1) === 1;
      let own = cells[taken[at]];
      const cell = (x: number, y: number): [number, number] => {
        let [a, b] = [x, y];
        for (let q = 0; q < turn; q++) [a, b] = [1 - b, a];
        return [mirror ? 1 - a : a, 1 - b];
      };
      const corners = face.length === 2 ? quadCorners(surface, face) : null;
      const side = corners && edge ? sideAt(surface, corners, (from, to) => edge.beginsBeyond(chosen, from, to)) : -1;
      if (corners) {
        figures.quads++;
        const seen = corners.map((corner) => seenAt(surface, chosen, old, corner[0]));
        // A transition lies with its lower edge at the border, as it is.
        const first = side >= 0 ? side : firstCorner(seen);
        if (side >= 0 && edge) own = edge;
        const keep = edit.fit === 'proportion' ? inProportion(surface, corners, first, own.picture) : [1, 1];
        corners.forEach((list, i) => {
          const [x, y] = CORNERS[(i - first + 4) % 4];
          const [px, py] = [0.5 + (x - 0.5) * keep[0], 0.5 + (y - 0.5) * keep[1]];
          const to: [number, number] = side >= 0 ? [px, 1 - py] : cell(px, py);
          for (const corner of list) put(chosen, own, corner, to);
        });
      } else {
        figures.triangles++;
        const list = face.flatMap((t) => [t * 3, t * 3 + 1, t * 3 + 2]);
        const seen = list.map((corner) => seenAt(surface, chosen, old, corner));
        const low = [0, 1].map((k) => Math.min(...seen.map((p) => p[k])));
        const size = [0, 1].map((k) => Math.max(...seen.map((p) => p[k])) - low[k]);
        if (edit.fit === 'proportion') size.fill(Math.max(...size));
        list.forEach((corner, i) => {
          const [x, y] = [0, 1].map((k) => (size[k] > 0 ? (seen[i][k] - low[k]) / size[k] : 0.5));
          put(chosen, own, corner, cell(x, y));
        });
      }
      if (side >= 0) {
        atEdge++;
        figures.taken[taken[at]].faces--;
      }
      for (const t of face) {
        chosen.table.slots[chosen.faces[t]] = own.slot;
        chosen.table.plain[chosen.faces[t]] = 0;
      }
      at++;
    }
  }
  if (edit.edge) figures.taken.push({ slot: edit.edge.slot, faces: atEdge });
  return figures;
}

/** The first side of a quad, named by its first corner, for which something holds; −1 where it holds for none. */
function sideAt(surface: Surface, corners: readonly number[][], holds: (from: Place, to: Place) => boolean): number {
  const at = (i: number): Place => {
    const p = surface.corners[corners[i % 4][0]] * 3;
    return [surface.points[p], surface.points[p + 1], surface.points[p + 2]];
  };
  return [0, 1, 2, 3].findIndex((i) => holds(at(i), at(i + 1)));
}

/**
 * Sides of faces by the places of their ends, for transitions.
 * @param ofGroup whether a face of a face table belongs to the other side; null: there is one where no other face is
 */
export function edgesBeyond(ofGroup: ((table: FaceTable, face: number) => boolean) | null): Edge['beginsBeyond'] {
  const known = new Map<FaceTable, Map<string, number>>();
  const key = (place: Place, b: Place) => {
    const [p, q] = [place.join(), b.join()];
    return p < q ? `${p} ${q}` : `${q} ${p}`;
  };
  const sidesOf = (table: FaceTable) => {
    const out = new Map<string, number>();
    const place = (corner: number): Place => {
      const v = table.indices[corner] * 3;
      return [table.positions[v], table.positions[v + 1], table.positions[v + 2]];
    };
    for (let f = 0; f < table.faces; f++) {
      if (ofGroup && !ofGroup(table, f)) continue;
      for (let k = 0; k < 3; k++) {
        const side = key(place(f * 3 + k), place(f * 3 + ((k + 1) % 3)));
        out.set(side, (out.get(side) ?? 0) + 1);
      }
    }
    return out;
  };
  return ({ table }, from, to) => {
    let sides = known.get(table);
    if (!sides) {
      sides = sidesOf(table);
      known.set(table, sides);
    }
    const there = sides.get(key(from, to)) ?? 0;
    return ofGroup ? there > 0 : there === 1;
  };
}

/** @param corner of the chosen faces' surface, triangle · 3 + k @param to place in the cell */
function put(chosen: Chosen, { lay }: Cell, corner: number, to: [number, number]): void {
  writableUv(chosen.table, lay.set).set(lay.uv(...to), (chosen.faces[Math.floor(corner / 3)] * 3 + (corner % 3)) * 2);
}

/** The four corners of a quad around, each with the corners of its triangles that lie there; null for what is no quad. */
function quadCorners(surface: Surface, [t, o]: readonly number[]): number[][] | null {
  const of = (triangle: number) => [0, 1, 2].map((k) => triangle * 3 + k);
  const alone = (a: number, b: number) =>
    of(a).find((c) => of(b).every((d) => surface.corners[c] !== surface.corners[d]));
  const [p, q] = [alone(t, o), alone(o, t)];
  if (p === undefined || q === undefined) return null;
  const next = (c: number, by: number) => c - (c % 3) + ((c + by) % 3);
  const same = (c: number) => of(o).find((d) => surface.corners[d] === surface.corners[c]);
  const [r, u] = [next(p, 1), next(p, 2)];
  const [rr, uu] = [same(r), same(u)];
  return rr === undefined || uu === undefined ? null : [[p], [r, rr], [q], [u, uu]];
}

/** Where a corner is seen, V up: in the UVs that were there, else on the surface itself. */
function seenAt(surface: Surface, chosen: Chosen, old: Float32Array | null, corner: number): [number, number] {
  if (old) {
    const i = (chosen.faces[Math.floor(corner / 3)] * 3 + (corner % 3)) * 2;
    return [old[i], -old[i + 1]];
  }
  const t = Math.floor(corner / 3);
  const n = [surface.normals[t * 3], surface.normals[t * 3 + 1], surface.normals[t * 3 + 2]];
  const [right, up] = axesAcross(n);
  const p = surface.corners[corner] * 3;
  const dot = (a: readonly number[]) =>
    a[0] * surface.points[p] + a[1] * surface.points[p + 1] + a[2] * surface.points[p + 2];
  return [dot(right), dot(up)];
}

/** Which corner of a quad lies nearest to the lower left. */
function firstCorner(seen: readonly [number, number][]): number {
  const middle = [0, 1].map((k) => seen.reduce((sum, p) => sum + p[k], 0) / 4);
  const fit = (first: number) =>
    seen.reduce((sum, p, i) => {
      const [x, y] = CORNERS[(i - first + 4) % 4];
      return sum + (p[0] - middle[0]) * (x - 0.5) + (p[1] - middle[1]) * (y - 0.5);
    }, 0);
  return [0, 1, 2, 3].reduce((best, f) => (fit(f) > fit(best) + 1e-9 ? f : best), 0);
}

/** Shares of the cell along u and v that a quad takes without stretching. */
function inProportion(
  surface: Surface,
  corners: readonly number[][],
  first: number,
  [width, height]: readonly [number, number],
): [number, number] {
  const at = (i: number) => surface.corners[corners[(first + i) % 4][0]] * 3;
  const length = (i: number, j: number) => {
    const [a, b] = [at(i), at(j)];
    return Math.sqrt([0, 1, 2].reduce((sum, k) => sum + (surface.points[a + k] - surface.points[b + k]) ** 2, 0));
  };
  const ratio = (length(0, 1) + length(3, 2)) / Math.max(length(0, 3) + length(1, 2), 1e-12) / (width / height);
  return ratio < 1 ? [ratio, 1] : [1, 1 / ratio];
}
