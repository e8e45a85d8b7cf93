import type { FaceGroup } from '@wembrel/core/decisions/face-decisions';
import { faceText, parseFaceText } from '@wembrel/core/decisions/face-list';
import type { PartOrigin } from '@wembrel/core/faces/apply-faces';
import { type GroupablePart, groupFaces, namedFaces } from '@wembrel/core/faces/group-faces';
import { triangleStretch } from '@wembrel/core/layout/stretch';
import { crossOf } from '@wembrel/core/math/triangle';
import { tileNumber } from '@wembrel/core/mesh/uv-tiles';
import type { LitFaces, PartGeometry } from '../../../stage/placed.ts';

/** All faces of a model, numbered as in its source: parts one after another. What is shown may have other parts, since edits change them. */
export interface FaceTable {
  faces: number;
  /** First face of each part of the source. */
  starts: number[];
  /** Vertices of all shown parts. */
  positions: Float32Array;
  /** Mesh of each vertex. */
  bodies: Uint32Array;
  indices: Uint32Array;
  /** (u, v) of each corner, V down. */
  uv: Float32Array;
  /** Slot of each face in the model as it is shown. */
  slots: Int32Array;
  /** m² of each face. */
  areas: Float32Array;
  /** For each shown part its number and the face that each of its triangles is. */
  shown: { part: number; faces: Uint32Array }[];
}

/** Where the faces of each part begin, and how many there are. */
export type Numbering = Pick<FaceTable, 'starts' | 'faces'>;

/**
 * @param parts of the source @param origins where the faces of shown parts come from; null: they are where they were
 */
export function faceTable(
  geometry: readonly PartGeometry[],
  parts: readonly GroupablePart[],
  origins: readonly PartOrigin[] | null,
): FaceTable {
  const starts: number[] = [];
  let faces = 0;
  for (const part of parts) {
    starts.push(faces);
    faces += part.faces;
  }
  const vertices = geometry.reduce((sum, partGeometry) => sum + partGeometry.positions.length / 3, 0);
  const out: FaceTable = {
    faces,
    starts,
    positions: new Float32Array(vertices * 3),
    bodies: new Uint32Array(vertices),
    indices: new Uint32Array(faces * 3),
    uv: new Float32Array(faces * 6),
    slots: new Int32Array(faces).fill(-1),
    areas: new Float32Array(faces),
    shown: [],
  };
  const normal = [0, 0, 0];
  let at = 0;
  for (const partGeometry of geometry) {
    out.positions.set(partGeometry.positions, at * 3);
    out.bodies.fill(partGeometry.mesh, at, at + partGeometry.positions.length / 3);
    const own = facesOf(partGeometry.part, partGeometry.indices.length / 3, starts, origins);
    out.shown.push({ part: partGeometry.part, faces: own });
    for (let t = 0; t < own.length; t++) {
      const f = own[t];
      if (f >= faces) continue;
      out.slots[f] = partGeometry.slot;
      out.areas[f] =
        (crossOf(
          partGeometry.positions,
          partGeometry.indices[t * 3],
          partGeometry.indices[t * 3 + 1],
          partGeometry.indices[t * 3 + 2],
          normal,
        ) /
          2) *
        partGeometry.scale ** 2;
      for (let k = 0; k < 3; k++) {
        const v = partGeometry.indices[t * 3 + k];
        out.indices[f * 3 + k] = at + v;
        if (partGeometry.uv) {
          out.uv[f * 6 + k * 2] = partGeometry.uv[2 * v];
          out.uv[f * 6 + k * 2 + 1] = partGeometry.uv[2 * v + 1];
        }
      }
    }
    at += partGeometry.positions.length / 3;
  }
  return out;
}

function facesOf(
  part: number,
  count: number,
  starts: readonly number[],
  origins: readonly PartOrigin[] | null,
): Uint32Array {
  if (!origins) return Uint32Array.from({ length: count }, (_, t) => starts[part] + t);
  const out = new Uint32Array(count);
  let at = 0;
  for (const o of origins[part] ?? [])
    for (const f of parseFaceText(o.faces)) if (at < count) out[at++] = starts[o.part] + f;
  return out;
}

/** Faces for which `is` holds, as the 3D picture takes them. */
export function litBy(table: FaceTable, is: (face: number) => boolean): LitFaces {
  const out = new Map<number, Uint32Array>();
  for (const { part, faces } of table.shown) {
    const list: number[] = [];
    for (let t = 0; t < faces.length; t++) if (is(faces[t])) list.push(t);
    if (list.length > 0) out.set(part, Uint32Array.from(list));
  }
  return out;
}

/** Position of the group of each face; −1 for none. */
export function groupOfFaces(
  table: FaceTable,
  path: string,
  parts: readonly GroupablePart[],
  groups: readonly FaceGroup[],
): Int16Array {
  const { ofPart } = groupFaces({ path, parts }, groups);
  const out = new Int16Array(table.faces).fill(-1);
  ofPart.forEach((list, p) => {
    out.set(list, table.starts[p]);
  });
  return out;
}

/** How many faces a set has, how large they are together, m², and how many whole quads are among them, where those are known. */
export function amountOf(
  table: FaceTable,
  set: Uint8Array,
  partner: Int32Array | null = null,
): { faces: number; area: number; quads: number | null } {
  let [faces, area, quads] = [0, 0, 0];
  for (let f = 0; f < set.length; f++)
    if (set[f]) {
      faces++;
      area += table.areas[f];
      if (partner && partner[f] > f && set[partner[f]]) quads++;
    }
  return { faces, area, quads: partner && quads };
}

/** A group's faces of a model with some put in or taken out; other groups give up what is put in. */
export function regrouped(
  groups: readonly FaceGroup[],
  id: string,
  path: string,
  table: Numbering,
  set: Uint8Array,
  how: 'in' | 'out',
): FaceGroup[] {
  return groups.map((group) => {
    if (how === 'out' && group.id !== id) return group;
    const known = namedFaces(group, path);
    const parts: Record<string, string> = {};
    table.starts.forEach((start, p) => {
      const end = table.starts[p + 1] ?? table.faces;
      const here = new Set(known[p] ? parseFaceText(known[p]) : []);
      for (let f = start; f < end; f++) {
        if (!set[f]) continue;
        if (how === 'in' && group.id === id) here.add(f - start);
        else here.delete(f - start);
      }
      if (here.size > 0) parts[p] = faceText(Uint32Array.from(here).sort());
    });
    const faces = { ...group.faces };
    const key = Object.keys(group.faces).find((k) => group.faces[k] === known) ?? path;
    delete faces[key];
    if (Object.keys(parts).length > 0) faces[key] = parts;
    return { ...group, faces };
  });
}

/**
 * How each face lies in its picture: texels a metre, and how much longer a texel is one way than the other (1: square).
 * @param sizeOf width and height of a slot's picture, px
 * @returns NaN for faces without area
 */
export function layOfFaces(
  table: FaceTable,
  sizeOf: (slot: number) => readonly [number, number],
): { density: Float32Array; stretch: Float32Array } {
  const density = new Float32Array(table.faces).fill(Number.NaN);
  const stretch = new Float32Array(table.faces).fill(Number.NaN);
  const { positions: p, indices, uv } = table;
  for (let f = 0; f < table.faces; f++) {
    const [w, h] = sizeOf(table.slots[f]);
    const i = f * 6;
    const [a, b] = [(uv[i + 2] - uv[i]) * w, (uv[i + 3] - uv[i + 1]) * h];
    const [c, d] = [(uv[i + 4] - uv[i]) * w, (uv[i + 5] - uv[i + 1]) * h];
    const [o, q, r] = [indices[f * 3] * 3, indices[f * 3 + 1] * 3, indices[f * 3 + 2] * 3];
    let [ee, ff, ef] = [0, 0, 0];
    for (let k = 0; k < 3; k++) {
      const [e, g] = [p[q + k] - p[o + k], p[r + k] - p[o + k]];
      ee += e * e;
      ff += g * g;
      ef += e * g;
    }
    const ratio = triangleStretch(ee, ff, ef, [a, b, c, d]);
    if (Number.isNaN(ratio)) continue;
    stretch[f] = ratio;
    density[f] = Math.sqrt(Math.abs(a * d - b * c) / 2 / table.areas[f]);
  }
  return { density, stretch };
}

/** What lies on one UV tile of a slot. */
export interface TileFigures {
  /** See `UvTile`. */
  number: number;
  faces: number;
  /** Texels a metre, by area; null without area. */
  density: number | null;
}

/** A share of a tile by which a face may reach over its border. */
const OVER = 1e-3;

/** UV tiles of a slot in the order of their numbers; none where a face reaches over a border, since such a texture tiles. @param size width and height of the picture of one tile, px */
export function tilesOfSlot(table: FaceTable, slot: number, [w, h]: readonly [number, number]): TileFigures[] {
  const sums = new Map<number, { faces: number; texels: number; area: number }>();
  const { uv } = table;
  for (let f = 0; f < table.faces; f++) {
    if (table.slots[f] !== slot) continue;
    const i = f * 6;
    const tile = [0, 1].map((k) => Math.floor((uv[i + k] + uv[i + 2 + k] + uv[i + 4 + k]) / 3));
    for (let k = 0; k < 6; k++) {
      const at = uv[i + k] - tile[k % 2];
      if (at < -OVER || at > 1 + OVER) return [];
    }
    const number = tileNumber(tile[0], tile[1]);
    const sum = sums.get(number) ?? { faces: 0, texels: 0, area: 0 };
    sums.set(number, sum);
    sum.faces++;
    sum.area += table.areas[f];
    const det = (uv[i + 2] - uv[i]) * (uv[i + 5] - uv[i + 1]) - (uv[i + 3] - uv[i + 1]) * (uv[i + 4] - uv[i]);
    sum.texels += (Math.abs(det) / 2) * w * h;
  }
  return [...sums]
    .sort((a, b) => a[0] - b[0])
    .map(([number, { faces, texels, area }]) => ({
      number,
      faces,
      density: area > 0 && texels > 0 ? Math.sqrt(texels / area) : null,
    }));
}
