import type { Document, Mesh, Primitive } from '@gltf-transform/core';
import { Wrap } from '@wembrel/kernels/sample';
import { layoutCoordinates } from '../mesh/coordinates.ts';
import { byteColumn, weldVertices } from '../mesh/weld.ts';
import { indexAccessor } from '../scene/accessors.ts';
import type { MaterialLook, TextureUse } from '../scene/material.ts';
import type { Model, Part } from '../scene/model.ts';
import { layOfUse, singleUse } from '../scene/texture-lay.ts';
import { EdgePoints, settledShare } from './edge-points.ts';
import { type CutPoint, PointMaker, type Polygon, splitAtRepeats, triangulate } from './polygon.ts';

/**
 * Cutting at repeats: faces of a tiling surface are cut where its texture begins again, and the pieces are moved by whole repeats into
 * 0–1, so that one copy of the texture serves them all ("Cutting at repeats" in the reference).
 */

/** Along which axes of the texture it is cut: `u` where U begins again. */
export type CutAxes = 'both' | 'u' | 'v';

/** What cutting costs. */
export interface CutCount {
  /** Triangles of all models before and after. */
  before: number;
  after: number;
}

/** A corner this near to the edge of a repeat lies on it; in repeats. A fiftieth of a texel at 1024 px. */
const SNAP = 2e-5;

/** More pieces than this are refused: such UVs are a mistake. */
const MOST_CUT_TRIANGLES = 2_000_000;

/** Why the parts of a slot cannot be cut at the repeats of their texture, or null. */
export function cutObstacle(parts: readonly Part[], look: MaterialLook): string | null {
  const use = singleUse(look);
  if (!use) return 'its maps are laid in different ways, or it has none';
  const [a, b, c, d] = use.transform;
  if (a * d - b * c === 0) return 'its texture transform flattens the texture';
  for (const part of parts) {
    if (!part.uvs[use.uvSet]) return `"${part.name}" has no UV set ${use.uvSet}`;
    if (part.mode < 4) return `"${part.name}" draws points or lines`;
    if (part.primitive.listTargets().length > 0) return `"${part.name}" has morph targets`;
    if (part.primitive.getAttribute('JOINTS_0')) return `"${part.name}" is skinned`;
  }
  return null;
}

/** After how many repeats a texture is the same again, by axis; 0 where it does not repeat or is not to be cut. */
function periodsOf(use: TextureUse, axes: CutAxes): [number, number] {
  const period = (wrap: number, on: boolean) => (!on || wrap === Wrap.clamp ? 0 : wrap === Wrap.mirror ? 2 : 1);
  return [period(use.wrapS, axes !== 'v'), period(use.wrapT, axes !== 'u')];
}

/** A part with what the cut needs of it; `st` is null for neighbours that are not cut themselves. */
interface CutPart {
  part: Part;
  use: TextureUse | null;
  periods: [number, number];
  /** By vertex, in repeats; snapped. */
  st: Float64Array | null;
  /** Place number by vertex. */
  place: Uint32Array;
}

/**
 * Cuts all parts of the given slots, in the model's document; faces of other parts of the same mesh that share an edge with a cut get its
 * points as well. The model is to be read from its document again afterwards.
 * @param slots numbers of slots for which `cutObstacle` is null, and along which axes each is cut
 * @throws TooManyPieces
 */
export function cutAtRepeats(model: Model, slots: ReadonlyMap<number, CutAxes>): CutCount {
  const count: CutCount = { before: 0, after: 0 };
  for (const part of model.parts) count.before += part.indices.length / 3;
  count.after = count.before;
  cutMeshes(model, slots, (cutPart, corners) => {
    count.after += (corners.length - cutPart.part.indices.length) / 3;
    write(model.document, cutPart, corners);
  });
  return count;
}

/**
 * How many triangles more a model has once a slot is cut, all instances counted; nothing is changed.
 * @returns null where there would be too many pieces
 */
export function countCut(model: Model, slot: number, axes: CutAxes = 'both'): { triangles: number } | null {
  let triangles = 0;
  try {
    cutMeshes(model, new Map([[slot, axes]]), ({ part }, corners) => {
      const copies = part.instances.reduce((sum, i) => sum + i.copies, 0);
      triangles += ((corners.length - part.indices.length) / 3) * copies;
    });
  } catch (error) {
    if (error instanceof TooManyPieces) return null;
    throw error;
  }
  return { triangles };
}

/** Thrown with a sentence. */
export class TooManyPieces extends Error {}

type OnCut = (part: CutPart, corners: NewCorner[]) => void;

function cutMeshes(model: Model, slots: ReadonlyMap<number, CutAxes>, onCut: OnCut): void {
  const meshes = new Set(model.parts.filter((part) => slots.has(part.slot)).map((part) => part.mesh));
  for (const mesh of meshes) cutMesh(model, mesh, slots, onCut);
}

function cutMesh(model: Model, mesh: Mesh, slots: ReadonlyMap<number, CutAxes>, onCut: OnCut): void {
  const parts = placesOf(
    model.parts.filter((part) => part.mesh === mesh && part.mode >= 4 && part.primitive.listTargets().length === 0),
    model,
    slots,
  );
  const places =
    1 + parts.reduce((greatest, part) => part.place.reduce((greatest, v) => Math.max(greatest, v), greatest), -1);
  const edges = new EdgePoints(places);
  for (const part of parts) if (part.st) noteCuts(part, edges);
  edges.finish();
  for (const part of parts) if (part.st || touched(part, edges)) onCut(part, piecesOf(part, edges));
}

function placesOf(parts: Part[], model: Model, slots: ReadonlyMap<number, CutAxes>): CutPart[] {
  const total = parts.reduce((sum, part) => sum + part.positions.length, 0);
  const all = new Float32Array(total);
  let at = 0;
  for (const part of parts) {
    all.set(part.positions, at);
    at += part.positions.length;
  }
  const { first } = weldVertices([byteColumn(all, 3)], total / 3);
  at = 0;
  return parts.map((part) => {
    const vertices = part.positions.length / 3;
    const place = first.slice(at, at + vertices);
    at += vertices;
    const axes = slots.get(part.slot);
    const use = axes ? singleUse(model.slots[part.slot].look) : null;
    if (!axes || !use) return { part, use: null, periods: [0, 0], st: null, place };
    const periods = periodsOf(use, axes);
    const st = layoutCoordinates(part, use, [1, 1]);
    for (let i = 0; i < st.length; i++) {
      const period = periods[i % 2];
      const line = period === 0 ? Number.NaN : Math.round(st[i] / period) * period;
      if (Math.abs(st[i] - line) < SNAP) st[i] = line;
    }
    return { part, use, periods, st, place };
  });
}

/** Calls `visit` for every line that an edge crosses, from its first vertex on. */
function eachCrossing(
  cutPart: CutPart,
  a: number,
  b: number,
  visit: (t: number, axis: 0 | 1, line: number) => void,
): void {
  const st = cutPart.st as Float64Array;
  for (const axis of [0, 1] as const) {
    const period = cutPart.periods[axis];
    if (period === 0) continue;
    const from = st[a * 2 + axis];
    const to = st[b * 2 + axis];
    if (from === to) continue;
    const first = Math.floor(Math.min(from, to) / period) + 1;
    const last = Math.ceil(Math.max(from, to) / period) - 1;
    for (let k = first; k <= last; k++) visit((k * period - from) / (to - from), axis, k * period);
  }
}

function noteCuts(cutPart: CutPart, edges: EdgePoints): void {
  const { indices, name } = cutPart.part;
  let pieces = 0;
  for (let i = 0; i < indices.length; i++) {
    const a = indices[i];
    const b = indices[i % 3 === 2 ? i - 2 : i + 1];
    eachCrossing(cutPart, a, b, (t) => {
      pieces++;
      if (pieces > MOST_CUT_TRIANGLES)
        throw new TooManyPieces(`"${name}" would fall into more than ${MOST_CUT_TRIANGLES} pieces`);
      // Both directions of an edge compute from its lower place, so that they agree to the bit.
      edges.add(cutPart.place[a], cutPart.place[b], t);
    });
  }
}

function touched(cutPart: CutPart, edges: EdgePoints): boolean {
  const { indices } = cutPart.part;
  for (let i = 0; i < indices.length; i++)
    if (edges.of(cutPart.place[indices[i]], cutPart.place[indices[i % 3 === 2 ? i - 2 : i + 1]]).length > 0)
      return true;
  return false;
}

const CORNERS: CutPoint['w'][] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

/** The lines that an edge crosses at each of its settled cuts, by share. Cuts that other triangles made have none. */
function linesAt(
  cutPart: CutPart,
  a: number,
  b: number,
  shares: readonly number[],
  forward: boolean,
): Map<number, { axis: 0 | 1; line: number }[]> {
  const out = new Map<number, { axis: 0 | 1; line: number }[]>();
  eachCrossing(cutPart, a, b, (t, axis, line) => {
    const share = settledShare(shares, forward ? t : 1 - t);
    const known = out.get(share);
    if (known) known.push({ axis, line });
    else out.set(share, [{ axis, line }]);
  });
  return out;
}

/** The outline of triangle f with every point that its edges are cut at. */
function outline(cutPart: CutPart, f: number, edges: EdgePoints, points: PointMaker): Polygon {
  const { indices, positions } = cutPart.part;
  const out: Polygon = [];
  const spot = (v: number): [number, number, number] => [positions[v * 3], positions[v * 3 + 1], positions[v * 3 + 2]];
  for (let c = 0; c < 3; c++) {
    const d = (c + 1) % 3;
    const a = indices[f * 3 + c];
    const b = indices[f * 3 + d];
    const st = (v: number): [number, number] => (cutPart.st ? [cutPart.st[v * 2], cutPart.st[v * 2 + 1]] : [0, 0]);
    out.push(points.make(CORNERS[c], spot(a), st(a)));
    const shares = edges.of(cutPart.place[a], cutPart.place[b]);
    if (shares.length === 0) continue;
    const forward = cutPart.place[a] < cutPart.place[b];
    const low = forward ? spot(a) : spot(b);
    const high = forward ? spot(b) : spot(a);
    const lines = cutPart.st && linesAt(cutPart, a, b, shares, forward);
    for (let i = 0; i < shares.length; i++) {
      const share = shares[forward ? i : shares.length - 1 - i];
      const w: [number, number, number] = [0, 0, 0];
      w[forward ? c : d] = 1 - share;
      w[forward ? d : c] = share;
      const at = [0, 1, 2].map((k) => (1 - share) * low[k] + share * high[k]) as [number, number, number];
      const [sa, sb] = [st(a), st(b)];
      const here: [number, number] = [0, 0];
      for (const axis of [0, 1] as const)
        here[axis] = forward ? (1 - share) * sa[axis] + share * sb[axis] : (1 - share) * sb[axis] + share * sa[axis];
      for (const { axis, line } of lines?.get(share) ?? []) here[axis] = line;
      out.push(points.make(w, at, here));
    }
  }
  return out;
}

/** A corner of the new triangles: a source vertex as it is, or a mix of the three of its face. */
interface NewCorner {
  face: number;
  point: CutPoint | null;
  vertex: number;
  /** Whole repeats that it is moved by. */
  moveS: number;
  moveT: number;
}

/** The corners of all pieces of a part, three a triangle. */
function piecesOf(cutPart: CutPart, edges: EdgePoints): NewCorner[] {
  const { indices } = cutPart.part;
  const corners: NewCorner[] = [];
  const move = (axis: 0 | 1, values: number[]) => {
    const period = cutPart.periods[axis];
    const middle = (Math.min(...values) + Math.max(...values)) / 2;
    return period === 0 ? 0 : Math.floor(middle / period) * period;
  };
  for (let f = 0; f < indices.length / 3; f++) {
    const points = new PointMaker();
    const whole = outline(cutPart, f, edges, points);
    let pieces: Polygon[] = [whole];
    for (const axis of [0, 1] as const)
      if (cutPart.periods[axis] > 0)
        pieces = pieces.flatMap((piece) => splitAtRepeats(piece, axis, cutPart.periods[axis], points));
    // A face without area on the texture is left whole.
    if (pieces.length === 0) pieces = [whole];
    for (const piece of pieces) {
      const moveS = move(
        0,
        piece.map((cutPoint) => cutPoint.st[0]),
      );
      const moveT = move(
        1,
        piece.map((cutPoint) => cutPoint.st[1]),
      );
      for (const triangle of triangulate(piece))
        for (const cutPoint of triangle) {
          const c = CORNERS.indexOf(cutPoint.w);
          corners.push({
            face: f,
            point: c < 0 ? cutPoint : null,
            vertex: c < 0 ? -1 : indices[f * 3 + c],
            moveS,
            moveT,
          });
        }
    }
  }
  return corners;
}

function write(document: Document, cutPart: CutPart, corners: NewCorner[]): void {
  if (corners.length === 0) return;
  const { primitive, indices } = cutPart.part;
  const columns = new Map<string, Float32Array>();
  for (const semantic of primitive.listSemantics()) {
    const size = primitive.getAttribute(semantic)?.getElementSize() as number;
    const values = valuesOf(primitive, cutPart.part, semantic);
    columns.set(semantic, mixCorners(semantic, values, size, corners, indices));
  }
  if (cutPart.use && cutPart.st) {
    const uv = columns.get(`TEXCOORD_${cutPart.use.uvSet}`) as Float32Array;
    const { uv: uvAt } = layOfUse(cutPart.use);
    corners.forEach(({ point, vertex, moveS, moveT }, i) => {
      const [s, t] = point
        ? point.st
        : [(cutPart.st as Float64Array)[vertex * 2], (cutPart.st as Float64Array)[vertex * 2 + 1]];
      uv.set(uvAt(s - moveS, t - moveT), i * 2);
    });
  }
  const { first, count } = weldVertices(
    [...columns].map(([s, v]) => byteColumn(v, sizeOf(primitive, s))),
    corners.length,
  );
  const rows: number[] = [];
  const out = new Uint32Array(corners.length);
  for (let i = 0; i < corners.length; i++) out[i] = first[i] === i ? rows.push(i) - 1 : out[first[i]];
  for (const [semantic, values] of columns) {
    const size = sizeOf(primitive, semantic);
    const picked = new Float32Array(count * size);
    for (const [k, r] of rows.entries()) picked.set(values.subarray(r * size, r * size + size), k * size);
    const old = primitive.getAttribute(semantic);
    primitive.setAttribute(
      semantic,
      document
        .createAccessor(old?.getName())
        .setType(old?.getType() as 'VEC3')
        .setArray(picked)
        .setBuffer(old?.getBuffer() ?? null),
    );
  }
  primitive.setMode(4);
  primitive.setIndices(indexAccessor(document, out, count));
}

const sizeOf = (primitive: Primitive, semantic: string): number =>
  primitive.getAttribute(semantic)?.getElementSize() as number;

function valuesOf(primitive: Primitive, part: Part, semantic: string): Float32Array {
  const accessor = primitive.getAttribute(semantic);
  const size = accessor?.getElementSize() as number;
  const count = accessor?.getCount() as number;
  if (semantic === 'POSITION') return part.positions;
  const out = new Float32Array(count * size);
  const row: number[] = [];
  for (let v = 0; v < count; v++) {
    accessor?.getElement(v, row);
    for (let k = 0; k < size; k++) out[v * size + k] = row[k];
  }
  return out;
}

/** Values at new corners: those of a vertex as they are; between vertices mixed, directions brought back to unit length. */
function mixCorners(
  semantic: string,
  values: Float32Array,
  size: number,
  corners: NewCorner[],
  indices: Uint32Array,
): Float32Array {
  const out = new Float32Array(corners.length * size);
  const direction = semantic === 'NORMAL' || semantic === 'TANGENT';
  corners.forEach(({ face, point, vertex }, i) => {
    const o = i * size;
    if (!point) {
      for (let k = 0; k < size; k++) out[o + k] = values[vertex * size + k];
      return;
    }
    if (semantic === 'POSITION') {
      out.set(point.at, o);
      return;
    }
    const [a, b, c] = [indices[face * 3], indices[face * 3 + 1], indices[face * 3 + 2]];
    for (let k = 0; k < size; k++)
      out[o + k] =
        point.w[0] * values[a * size + k] + point.w[1] * values[b * size + k] + point.w[2] * values[c * size + k];
    if (!direction) return;
    const length = Math.sqrt(out[o] ** 2 + out[o + 1] ** 2 + out[o + 2] ** 2) || 1;
    for (let k = 0; k < 3; k++) out[o + k] /= length;
    if (size === 4) out[o + 3] = values[a * size + 3];
  });
  return out;
}
