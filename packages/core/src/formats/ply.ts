import { InputError } from '../errors.ts';
import { LIMITS } from '../limits.ts';
import type { Imported, ImportedMaterial } from './imported.ts';
import { plainMaterial } from './obj/mtl.ts';
import { Numbers, Tokenizer } from './tokenizer.ts';
import { triangulate } from './triangulate.ts';

type Kind = 'i1' | 'u1' | 'i2' | 'u2' | 'i4' | 'u4' | 'f4' | 'f8';

const KINDS: Record<string, Kind> = {
  char: 'i1',
  int8: 'i1',
  uchar: 'u1',
  uint8: 'u1',
  short: 'i2',
  int16: 'i2',
  ushort: 'u2',
  uint16: 'u2',
  int: 'i4',
  int32: 'i4',
  uint: 'u4',
  uint32: 'u4',
  float: 'f4',
  float32: 'f4',
  double: 'f8',
  float64: 'f8',
};
const BYTES: Record<Kind, number> = { i1: 1, u1: 1, i2: 2, u2: 2, i4: 4, u4: 4, f4: 4, f8: 8 };
/** What a whole-number colour counts as full. */
const FULL: Partial<Record<Kind, number>> = { u1: 255, u2: 65535, i1: 127, i2: 32767 };

interface Property {
  name: string;
  kind: Kind;
  /** Kind of the length, for a list. */
  list: Kind | null;
}

interface Element {
  name: string;
  count: number;
  properties: Property[];
}

interface Header {
  format: 'ascii' | 'little' | 'big';
  elements: Element[];
  textures: string[];
  body: number;
  line: number;
}

function readHeader(path: string, bytes: Uint8Array): Header {
  const fail = (reason: string): never => {
    throw new InputError(path, reason);
  };
  const scan = new Tokenizer(bytes, Math.min(bytes.length, 1 << 20));
  if (scan.word() !== 'ply') fail('the file does not begin like a PLY');
  let format: Header['format'] | null = null;
  const elements: Element[] = [];
  const textures: string[] = [];
  for (scan.nextLine(); scan.at < scan.end; scan.nextLine()) {
    const key = scan.word();
    if (key === 'end_header') {
      scan.nextLine();
      if (!format) fail('its header names no format');
      return { format: format as Header['format'], elements, textures, body: scan.at, line: scan.line };
    }
    if (key === 'format') {
      const name = scan.word();
      format =
        name === 'ascii'
          ? 'ascii'
          : name === 'binary_little_endian'
            ? 'little'
            : name === 'binary_big_endian'
              ? 'big'
              : null;
      if (!format) fail(`line ${scan.line}: the format "${name}" is not known`);
    } else if (key === 'comment') {
      if (/^texturefile$/i.test(scan.word())) textures.push(scan.rest());
    } else if (key === 'element') {
      const name = scan.word();
      const count = scan.number();
      if (!Number.isInteger(count) || count < 0)
        fail(`line ${scan.line}: the count of "${name}" is not a whole number`);
      if (count > LIMITS.accessorCount) fail(`claims ${count} of "${name}"; at most ${LIMITS.accessorCount} are read`);
      if (elements.length >= 64) fail('its header lists more than 64 elements');
      elements.push({ name, count, properties: [] });
    } else if (key === 'property') {
      const owner = elements[elements.length - 1];
      if (!owner) fail(`line ${scan.line}: a property before any element`);
      let type = scan.word();
      let list: Kind | null = null;
      if (type === 'list') {
        list = KINDS[scan.word()] ?? null;
        if (!list || list[0] === 'f') fail(`line ${scan.line}: the length of a list must be a whole number`);
        type = scan.word();
      }
      const kind = KINDS[type];
      if (!kind) fail(`line ${scan.line}: the type "${type}" is not known`);
      if (owner.properties.length >= 256) fail('its header lists more than 256 properties of one element');
      owner.properties.push({ name: scan.word(), kind, list });
    }
  }
  return fail('its header has no end');
}

/** Gives the values of the body one after another. @throws InputError when it is cut short */
type Source = (kind: Kind) => number;

function asciiSource(path: string, bytes: Uint8Array, header: Header): Source {
  const scan = new Tokenizer(bytes);
  scan.at = header.body;
  scan.line = header.line;
  return () => {
    scan.blanks();
    while (scan.endOfLine) {
      if (scan.at >= scan.end) throw new InputError(path, 'the file is cut short');
      scan.nextLine();
      scan.blanks();
    }
    const value = scan.number();
    if (!Number.isFinite(value)) throw new InputError(path, `line ${scan.line}: a value is not a finite number`);
    if (!scan.endOfLine && bytes[scan.at] > 32) throw new InputError(path, `line ${scan.line}: a value cannot be read`);
    return value;
  };
}

function binarySource(path: string, bytes: Uint8Array, header: Header): Source {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const little = header.format === 'little';
  let at = header.body;
  return (kind) => {
    const from = at;
    at += BYTES[kind];
    if (at > bytes.length) throw new InputError(path, 'the file is cut short');
    if (kind === 'f4') return view.getFloat32(from, little);
    if (kind === 'u1') return view.getUint8(from);
    if (kind === 'i4') return view.getInt32(from, little);
    if (kind === 'u4') return view.getUint32(from, little);
    if (kind === 'f8') return view.getFloat64(from, little);
    if (kind === 'i1') return view.getInt8(from);
    return kind === 'i2' ? view.getInt16(from, little) : view.getUint16(from, little);
  };
}

const ALIASES: Record<string, string> = {
  texture_u: 'u',
  texture_v: 'v',
  s: 'u',
  t: 'v',
  diffuse_red: 'red',
  diffuse_green: 'green',
  diffuse_blue: 'blue',
  r: 'red',
  g: 'green',
  b: 'blue',
  a: 'alpha',
  vertex_index: 'vertex_indices',
};

const toLinear = (x: number): number => (x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4);

/**
 * Reads a PLY, text or binary of either byte order: positions, normals, UVs at vertices or at face corners, vertex colours
 * (taken as sRGB), polygons with any number of corners.
 * @throws InputError
 */
export function readPly(path: string, bytes: Uint8Array): Imported {
  const header = readHeader(path, bytes);
  const fail = (reason: string): never => {
    throw new InputError(path, reason);
  };
  // Memory follows the file's real size, not what its header claims.
  const least = header.elements.reduce(
    (sum, element) =>
      sum +
      element.count *
        element.properties.reduce(
          (sum, property) => sum + (header.format === 'ascii' ? 2 : BYTES[property.list ?? property.kind]),
          0,
        ),
    0,
  );
  if (least > bytes.length - header.body + 16) fail('the file is cut short');
  const next = header.format === 'ascii' ? asciiSource(path, bytes, header) : binarySource(path, bytes, header);
  const columns: Record<string, Float64Array> = {};
  const kinds: Record<string, Kind> = {};
  const indices = new Numbers(new Int32Array(3072));
  const cornerUvs = new Numbers(new Float32Array(64));
  const face = new Numbers(new Int32Array(16));
  const wedge = new Numbers(new Float64Array(16));
  let count = -1;
  let hasFaces = false;
  let loose = 0;
  for (const element of header.elements) {
    if (element.properties.length === 0 && element.count > 0) fail(`the element "${element.name}" has no properties`);
    const names = element.properties.map((property) => ALIASES[property.name] ?? property.name);
    if (element.name === 'vertex') {
      count = element.count;
      element.properties.forEach((property, i) => {
        if (property.list) return;
        columns[names[i]] = new Float64Array(count);
        kinds[names[i]] = property.kind;
      });
    }
    if (element.name === 'face') hasFaces = true;
    for (let row = 0; row < element.count; row++) {
      face.length = 0;
      wedge.length = 0;
      for (let i = 0; i < element.properties.length; i++) {
        const property = element.properties[i];
        if (!property.list) {
          const value = next(property.kind);
          if (element.name === 'vertex') columns[names[i]][row] = value;
          continue;
        }
        const length = next(property.list);
        if (length < 0 || length > 1 << 20) fail(`a list of "${property.name}" has ${length} entries`);
        for (let k = 0; k < length; k++) {
          const value = next(property.kind);
          if (element.name !== 'face') continue;
          if (names[i] === 'vertex_indices') face.push(value);
          else if (names[i] === 'texcoord') wedge.push(value);
        }
      }
      if (element.name !== 'face') continue;
      if (face.length < 3) {
        loose++;
        continue;
      }
      if (count < 0) fail('its faces come before its vertices');
      const f = face.values;
      for (const v of f) if (!(v >= 0 && v < count)) fail(`face ${row} names vertex ${v}, but there are ${count}`);
      const points = new Float64Array(f.length * 3);
      for (let k = 0; k < f.length; k++) {
        points[k * 3] = columns.x?.[f[k]] ?? 0;
        points[k * 3 + 1] = columns.y?.[f[k]] ?? 0;
        points[k * 3 + 2] = columns.z?.[f[k]] ?? 0;
      }
      const w = wedge.values;
      for (const k of triangulate(points)) {
        indices.push(f[k]);
        if (w.length === f.length * 2) {
          cornerUvs.push(w[k * 2]);
          cornerUvs.push(1 - w[k * 2 + 1]);
        }
      }
    }
  }
  for (const axis of ['x', 'y', 'z']) if (!columns[axis]) fail('its vertices have no positions');
  if (indices.length === 0) fail(hasFaces ? 'holds no faces' : 'holds points only, no faces');
  for (const axis of ['x', 'y', 'z'])
    for (let i = 0; i < count; i++)
      if (!Number.isFinite(columns[axis][i])) fail(`the position of vertex ${i} is ${columns[axis][i]}`);
  const notes: string[] = [];
  if (loose > 0) notes.push(`${loose} faces with fewer than three corners are left out`);
  const colour = ['red', 'green', 'blue'].every((c) => columns[c]);
  const materials: ImportedMaterial[] = [plainMaterial('surface')];
  if (colour || header.textures.length > 0) materials[0].baseColor = [1, 1, 1, 1];
  if (header.textures.length > 0) materials[0].maps.baseColor = { file: header.textures[0] };
  if (header.textures.length > 1) notes.push('only the first of its textures is used');
  const atCorners = cornerUvs.length === indices.length * 2;
  const read = atCorners
    ? unweld(columns, indices.values, cornerUvs.values)
    : { from: null, indices: Uint32Array.from(indices.values), uvs: null };
  const vertices = read.from?.length ?? count;
  const pick = (names: string[], map: (v: number, name: string) => number, fill?: number): Float32Array => {
    const out = new Float32Array(vertices * names.length);
    names.forEach((name, k) => {
      const column = columns[name];
      for (let i = 0; i < vertices; i++)
        out[i * names.length + k] = column ? map(column[read.from ? read.from[i] : i], name) : (fill ?? 0);
    });
    return out;
  };
  const finiteOr0 = (v: number) => (Number.isFinite(v) ? v : 0);
  const normals = ['nx', 'ny', 'nz'].every((name) => columns[name]) ? pick(['nx', 'ny', 'nz'], finiteOr0) : null;
  if (normals) normalise(normals);
  const share = (v: number, name: string) => {
    const full = FULL[kinds[name]];
    return Math.min(1, Math.max(0, full ? v / full : finiteOr0(v)));
  };
  return {
    parts: [
      {
        name: 'surface',
        material: 0,
        positions: pick(['x', 'y', 'z'], (v) => v),
        normals,
        uvs:
          read.uvs ??
          (columns.u && columns.v
            ? pick(['u', 'v'], (v, name) => (name === 'v' ? 1 - finiteOr0(v) : finiteOr0(v)))
            : null),
        colors: colour
          ? pick(
              ['red', 'green', 'blue', 'alpha'],
              (v, name) => (name === 'alpha' ? share(v, name) : toLinear(share(v, name))),
              1,
            )
          : null,
        indices: read.indices,
      },
    ],
    materials,
    notes,
  };
}

function normalise(n: Float32Array): void {
  for (let i = 0; i < n.length; i += 3) {
    const l = Math.sqrt(n[i] ** 2 + n[i + 1] ** 2 + n[i + 2] ** 2);
    if (l > 0) for (let k = 0; k < 3; k++) n[i + k] /= l;
    else n[i + 1] = 1;
  }
}

/** Splits vertices whose corners have different UVs. */
function unweld(columns: Record<string, Float64Array>, corners: Int32Array, uv: Float32Array) {
  const known = new Map<string, number>();
  const from: number[] = [];
  const uvs: number[] = [];
  const indices = new Uint32Array(corners.length);
  for (let i = 0; i < corners.length; i++) {
    const key = `${corners[i]} ${uv[i * 2]} ${uv[i * 2 + 1]}`;
    let v = known.get(key);
    if (v === undefined) {
      v = from.push(corners[i]) - 1;
      uvs.push(uv[i * 2], uv[i * 2 + 1]);
      known.set(key, v);
    }
    indices[i] = v;
  }
  return { from: columns.x ? Int32Array.from(from) : null, indices, uvs: Float32Array.from(uvs) };
}
