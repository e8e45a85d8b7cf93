import type { Accessor } from '@gltf-transform/core';
import { hashPair } from '../math/hash.ts';
import { crossOf, longestSquare, NO_AREA } from '../math/triangle.ts';
import { byteColumn, weldVertices, wordsOf } from '../mesh/weld.ts';
import type { Part } from '../scene/model.ts';

/** Why the GPU has more vertices than the surface has points. The figures add up: points + all splits = GPU vertices. */
export interface VertexSplits {
  /** Distinct places. */
  points: number;
  /** Added because UVs differ at one place. */
  uvs: number;
  /** Added because normals differ where place and UVs agree: hard edges. */
  normals: number;
  /** Added because tangents differ. */
  tangents: number;
  /** Added because colours differ. */
  colours: number;
  /** Added by joints, weights and the rest. */
  other: number;
}

/** What is odd about the faces of a part. */
export interface PartGeometry {
  splits: VertexSplits;
  gpuVertices: number;
  /** Faces without area. */
  degenerate: number;
  /** Faces whose three places another face has already, in either direction. */
  duplicate: number;
  /** Edges with two normals and one UV: hard, but not split in the UVs. */
  unsplitHard: number;
  /** Edges with one normal across a turn of 80° or more. */
  steepSmooth: number;
  /** Vertices that differ from another one only by a normal turned less than 1°. */
  needless: number;
  /** Equal for parts with the same bytes in all attributes and indices. */
  content: string;
}

/** What the facts of a part's faces are made from: plain data that may go to another thread. */
export interface GeometryInput extends Pick<Part, 'positions' | 'normals' | 'uvs' | 'indices'> {
  /** All stored attributes but POSITION, in their order. */
  attributes: StoredAttribute[];
  /** POSITION as it is stored; null where the primitive has none. */
  places: StoredAttribute | null;
  /** Indices as they are stored; null where vertices follow each other. */
  stored: VertexIndices | null;
}

interface StoredAttribute {
  semantic: string;
  array: TypedArray;
  /** Components of an element. */
  size: number;
}

type TypedArray = NonNullable<ReturnType<Accessor['getArray']>>;
type VertexIndices = ArrayLike<number> & ArrayBufferView;

/** Gathers what `partGeometry` needs; arrays are shared with the part. */
export function geometryInput(part: Part): GeometryInput {
  const { positions, normals, uvs, indices, primitive } = part;
  const attribute = (semantic: string): StoredAttribute[] => {
    const accessor = primitive.getAttribute(semantic);
    const array = accessor?.getArray();
    return accessor && array ? [{ semantic, array, size: accessor.getElementSize() }] : [];
  };
  return {
    positions,
    normals,
    uvs,
    indices,
    attributes: primitive
      .listSemantics()
      .filter((semantic) => semantic !== 'POSITION')
      .flatMap(attribute),
    places: attribute('POSITION')[0] ?? null,
    stored: primitive.getIndices()?.getArray() ?? null,
  };
}

const STEEP = Math.cos((80 * Math.PI) / 180);
const SAME_NORMAL = Math.cos((1 * Math.PI) / 180);

/** Attributes in the order in which splits are charged to them. */
const ORDER: [keyof Omit<VertexSplits, 'points'>, RegExp][] = [
  ['uvs', /^TEXCOORD_/],
  ['normals', /^NORMAL$/],
  ['tangents', /^TANGENT$/],
  ['colours', /^COLOR_/],
  ['other', /./],
];

const columnOf = ({ array, size }: StoredAttribute) => byteColumn(array, size);

/** Vertices that the GPU holds for a part, and what splits them ("Counts and sizes", GPU vertices). */
export function vertexSplits(part: GeometryInput): { splits: VertexSplits; gpuVertices: number } {
  const count = part.positions.length / 3;
  const { stored } = part;
  const used = new Uint8Array(count);
  if (stored) for (let i = 0; i < stored.length; i++) used[stored[i]] = 1;
  else used.fill(1);
  const columns = [byteColumn(used, 1), ...(part.places ? [columnOf(part.places)] : [])];
  const distinct = (): number => {
    const { first } = weldVertices(columns, count);
    let n = 0;
    for (let v = 0; v < count; v++) if (used[v] && first[v] === v) n++;
    return n;
  };
  const points = distinct();
  const splits: VertexSplits = { points, uvs: 0, normals: 0, tangents: 0, colours: 0, other: 0 };
  let left = part.attributes;
  let before = points;
  for (const [cause, pattern] of ORDER) {
    const now = left.filter(({ semantic }) => pattern.test(semantic));
    if (now.length === 0) continue;
    left = left.filter(({ semantic }) => !pattern.test(semantic));
    columns.push(...now.map(columnOf));
    const after = distinct();
    splits[cause] += after - before;
    before = after;
  }
  return { splits, gpuVertices: before };
}

/** Numbers in two 32-bit hashes over all bytes: equal parts agree, others hardly ever. */
function contentOf({ positions, indices, attributes, places }: GeometryInput): string {
  let a = 2166136261;
  let b = 0x9e3779b9;
  const mix = (word: number) => {
    a = Math.imul(a ^ word, 16777619);
    a ^= a >>> 15;
    b = Math.imul(b ^ word, 0x85ebca6b);
    b ^= b >>> 13;
  };
  const add = (view: ArrayBufferView) => {
    const { words, rest } = wordsOf(view);
    for (let i = 0; i < words.length; i++) mix(words[i]);
    for (let i = 0; i < rest.length; i++) mix(rest[i]);
  };
  const all = places ? [...attributes, places] : [...attributes];
  for (const { array } of all.sort((x, y) => (x.semantic < y.semantic ? -1 : 1))) add(array);
  add(indices);
  return `${positions.length} ${indices.length} ${a >>> 0} ${b >>> 0}`;
}

/** Pairs of edges by their places; numbers of half-edges in an open table, so that millions are no burden. */
function edgePairs(places: Uint32Array, visit: (edge: number, other: number) => void): void {
  let capacity = 64;
  while (capacity < places.length * 2) capacity *= 2;
  const table = new Int32Array(capacity).fill(-1);
  const next = (e: number) => (e % 3 === 2 ? e - 2 : e + 1);
  for (let e = 0; e < places.length; e++) {
    const place = places[e];
    const q = places[next(e)];
    if (place === q) continue;
    const low = Math.min(place, q);
    const high = Math.max(place, q);
    let slot = hashPair(low, high) & (capacity - 1);
    for (;;) {
      const other = table[slot];
      if (other < 0) {
        table[slot] = e;
        break;
      }
      const a = places[other];
      const b = places[next(other)];
      if (Math.min(a, b) === low && Math.max(a, b) === high) {
        visit(e, other);
        break;
      }
      slot = (slot + 1) & (capacity - 1);
    }
  }
}

export function partGeometry(part: GeometryInput): PartGeometry {
  const { positions, indices, normals } = part;
  const count = positions.length / 3;
  const uv = part.uvs[0] ?? null;
  const { first: place } = weldVertices([byteColumn(positions, 3)], count);
  const places = Uint32Array.from(indices, (v) => place[v]);
  const faces = indices.length / 3;
  const faceNormals = new Float32Array(indices.length);
  let degenerate = 0;
  const n = new Float64Array(3);
  for (let t = 0; t < faces; t++) {
    const [a, b, c] = [indices[t * 3], indices[t * 3 + 1], indices[t * 3 + 2]];
    const twice = crossOf(positions, a, b, c, n);
    if (!(twice > NO_AREA * longestSquare(positions, a, b, c))) degenerate++;
    else for (let k = 0; k < 3; k++) faceNormals[t * 3 + k] = n[k] / twice;
  }
  const real = (t: number) => faceNormals[t * 3] !== 0 || faceNormals[t * 3 + 1] !== 0 || faceNormals[t * 3 + 2] !== 0;
  let unsplitHard = 0;
  let steepSmooth = 0;
  const sameNormal = (a: number, b: number): boolean => {
    if (!normals || a === b) return true;
    return (
      normals[a * 3] * normals[b * 3] +
        normals[a * 3 + 1] * normals[b * 3 + 1] +
        normals[a * 3 + 2] * normals[b * 3 + 2] >=
      SAME_NORMAL
    );
  };
  const sameUv = (a: number, b: number): boolean =>
    a === b || (uv !== null && uv[a * 2] === uv[b * 2] && uv[a * 2 + 1] === uv[b * 2 + 1]);
  const next = (e: number) => (e % 3 === 2 ? e - 2 : e + 1);
  if (normals)
    edgePairs(places, (e, o) => {
      const [s, t] = [Math.floor(e / 3), Math.floor(o / 3)];
      if (!real(s) || !real(t)) return;
      // Corner of the other face at the same place.
      const [a, b] = [indices[e], indices[next(e)]];
      const flipped = places[o] === places[e];
      const p = flipped ? indices[o] : indices[next(o)];
      const q = flipped ? indices[next(o)] : indices[o];
      const smooth = sameNormal(a, p) && sameNormal(b, q);
      const turn =
        faceNormals[s * 3] * faceNormals[t * 3] +
        faceNormals[s * 3 + 1] * faceNormals[t * 3 + 1] +
        faceNormals[s * 3 + 2] * faceNormals[t * 3 + 2];
      if (smooth && turn <= STEEP && turn > -0.9999) steepSmooth++;
      if (!smooth && uv && sameUv(a, p) && sameUv(b, q)) unsplitHard++;
    });
  return {
    ...vertexSplits(part),
    degenerate,
    duplicate: duplicateFaces(places),
    unsplitHard,
    steepSmooth,
    needless: needlessSplits(part),
    content: contentOf(part),
  };
}

/** Faces that have the three places of an earlier one. */
export function duplicateFaces(places: Uint32Array): number {
  const sorted = new Uint32Array(places.length);
  for (let t = 0; t < places.length; t += 3) {
    const [a, b, c] = [places[t], places[t + 1], places[t + 2]];
    const low = Math.min(a, b, c);
    const high = Math.max(a, b, c);
    sorted[t] = low;
    sorted[t + 1] = a + b + c - low - high;
    sorted[t + 2] = high;
  }
  const rows = places.length / 3;
  const { first } = weldVertices([byteColumn(sorted, 3)], rows);
  let n = 0;
  for (let t = 0; t < rows; t++) {
    const [a, b, c] = [places[t * 3], places[t * 3 + 1], places[t * 3 + 2]];
    if (first[t] !== t && a !== b && b !== c && a !== c) n++;
  }
  return n;
}

/** Vertices that agree with an earlier one in everything but a normal (and tangent) turned by less than 1°, without being equal. */
export function needlessSplits(part: GeometryInput): number {
  const { normals } = part;
  if (!normals) return 0;
  const count = part.positions.length / 3;
  const columns = [...(part.places ? [part.places] : []), ...part.attributes]
    .filter(({ semantic }) => semantic !== 'NORMAL' && semantic !== 'TANGENT')
    .map(columnOf);
  const { first } = weldVertices(columns, count);
  const used = new Uint8Array(count);
  for (const v of part.indices) used[v] = 1;
  let n = 0;
  for (let v = 0; v < count; v++) {
    const f = first[v];
    if (f === v || !used[v] || !used[f]) continue;
    let d = 0;
    let equal = true;
    for (let k = 0; k < 3; k++) {
      d += normals[v * 3 + k] * normals[f * 3 + k];
      equal &&= normals[v * 3 + k] === normals[f * 3 + k];
    }
    if (!equal && d >= SAME_NORMAL) n++;
  }
  return n;
}
