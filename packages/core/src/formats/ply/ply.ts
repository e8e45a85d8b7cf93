import { InputError } from '../../errors.ts';
import { srgbToLinear } from '../../image/srgb.ts';
import type { Imported, ImportedMaterial } from '../imported.ts';
import { plainMaterial } from '../obj/mtl.ts';
import { Numbers } from '../tokenizer.ts';
import { triangulate } from '../triangulate.ts';
import { BYTES, type Element, FULL, type Header, type Kind, readHeader } from './header.ts';
import { type Source, sourceOf } from './source.ts';

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

/** Triangles of the body's faces. */
interface Faces {
  indices: Int32Array;
  /** U V of every corner, or empty where some corner has none. */
  cornerUvs: Float32Array;
  /** Faces with fewer than three corners. */
  loose: number;
}

/** Vertices as they are written: those of the file, or split where the corners of one have different UVs. */
interface Split {
  /** Vertex of the file for each written one; null: the same. */
  from: Int32Array | null;
  indices: Uint32Array;
  uvs: Float32Array | null;
}

/**
 * Reads a PLY, text or binary of either byte order: positions, normals, UVs at vertices or at face corners, vertex colours
 * (taken as sRGB), polygons with any number of corners.
 * @throws InputError
 */
export function readPly(path: string, bytes: Uint8Array): Imported {
  const header = readHeader(path, bytes);
  if (leastBytes(header) > bytes.length - header.body + 16) throw new InputError(path, 'the file is cut short');
  const body = new PlyBody(path, header, sourceOf(path, bytes, header));
  const { vertices, faces } = body.read();
  const notes: string[] = [];
  if (faces.loose > 0) notes.push(`${faces.loose} faces with fewer than three corners are left out`);
  if (header.textures.length > 1) notes.push('only the first of its textures is used');
  const split: Split =
    faces.cornerUvs.length === faces.indices.length * 2
      ? splitByUvs(faces.indices, faces.cornerUvs)
      : { from: null, indices: Uint32Array.from(faces.indices), uvs: null };
  return {
    parts: [{ name: 'surface', material: 0, ...vertices.written(split), indices: split.indices }],
    materials: [materialOf(header, vertices.coloured)],
    notes,
  };
}

/** The fewest bytes that a body of this header takes: memory follows the file's real size, not what its header claims. */
function leastBytes(header: Header): number {
  const least = ({ kind, list }: Element['properties'][number]) =>
    header.format === 'ascii' ? 2 : BYTES[list ?? kind];
  return header.elements.reduce(
    (sum, { count, properties }) => sum + count * properties.reduce((row, property) => row + least(property), 0),
    0,
  );
}

function materialOf(header: Header, coloured: boolean): ImportedMaterial {
  const material = plainMaterial('surface');
  const [file] = header.textures;
  if (coloured || file !== undefined) material.baseColor = [1, 1, 1, 1];
  if (file !== undefined) material.maps.baseColor = { file };
  return material;
}

/** Reads the elements one after another. */
class PlyBody {
  private vertices: PlyVertices | null = null;
  private readonly indices = new Numbers(new Int32Array(3072));
  private readonly cornerUvs = new Numbers(new Float32Array(64));
  private loose = 0;
  /** Vertices and UVs of the face being read. */
  private readonly face = new Numbers(new Int32Array(16));
  private readonly wedge = new Numbers(new Float64Array(16));

  constructor(
    private readonly path: string,
    private readonly header: Header,
    private readonly next: Source,
  ) {}

  read(): { vertices: PlyVertices; faces: Faces } {
    const { elements } = this.header;
    for (const element of elements) this.readElement(element);
    const vertices = this.vertices ?? this.fail('its vertices have no positions');
    const reason = vertices.missingPosition();
    if (reason) this.fail(reason);
    const hasFaces = elements.some((element) => element.name === 'face');
    if (this.indices.length === 0) this.fail(hasFaces ? 'holds no faces' : 'holds points only, no faces');
    const unfit = vertices.unfitPosition();
    if (unfit) this.fail(unfit);
    return {
      vertices,
      faces: { indices: this.indices.values, cornerUvs: this.cornerUvs.values, loose: this.loose },
    };
  }

  private readElement(element: Element): void {
    if (element.properties.length === 0 && element.count > 0)
      this.fail(`the element "${element.name}" has no properties`);
    const names = element.properties.map((property) => ALIASES[property.name] ?? property.name);
    if (element.name === 'vertex') this.vertices = new PlyVertices(element, names);
    for (let row = 0; row < element.count; row++) {
      this.readRow(element, names, row);
      if (element.name === 'face') this.addFace(row);
    }
  }

  private readRow(element: Element, names: readonly string[], row: number): void {
    this.face.length = 0;
    this.wedge.length = 0;
    for (let i = 0; i < element.properties.length; i++) {
      const property = element.properties[i];
      if (!property.list) {
        const value = this.next(property.kind);
        if (element.name === 'vertex' && this.vertices) this.vertices.columns[names[i]][row] = value;
        continue;
      }
      const length = this.next(property.list);
      if (length < 0 || length > 1 << 20) this.fail(`a list of "${property.name}" has ${length} entries`);
      for (let k = 0; k < length; k++) {
        const value = this.next(property.kind);
        if (element.name !== 'face') continue;
        if (names[i] === 'vertex_indices') this.face.push(value);
        else if (names[i] === 'texcoord') this.wedge.push(value);
      }
    }
  }

  private addFace(row: number): void {
    const corners = this.face.values;
    if (corners.length < 3) {
      this.loose++;
      return;
    }
    const vertices = this.vertices ?? this.fail('its faces come before its vertices');
    for (const corner of corners)
      if (!(corner >= 0 && corner < vertices.count))
        this.fail(`face ${row} names vertex ${corner}, but there are ${vertices.count}`);
    const uvs = this.wedge.values;
    for (const k of triangulate(vertices.pointsOf(corners))) {
      this.indices.push(corners[k]);
      if (uvs.length !== corners.length * 2) continue;
      this.cornerUvs.push(uvs[k * 2]);
      this.cornerUvs.push(1 - uvs[k * 2 + 1]);
    }
  }

  private fail(reason: string): never {
    throw new InputError(this.path, reason);
  }
}

const AXES = ['x', 'y', 'z'];
const NORMAL = ['nx', 'ny', 'nz'];
const COLOUR = ['red', 'green', 'blue'];
const finiteOr0 = (v: number): number => (Number.isFinite(v) ? v : 0);

/** The vertices of a PLY by column. */
class PlyVertices {
  readonly columns: Record<string, Float64Array> = {};
  readonly count: number;
  private readonly kinds: Record<string, Kind> = {};

  constructor(element: Element, names: readonly string[]) {
    this.count = element.count;
    element.properties.forEach((property, i) => {
      if (property.list) return;
      this.columns[names[i]] = new Float64Array(element.count);
      this.kinds[names[i]] = property.kind;
    });
  }

  get coloured(): boolean {
    return this.has(COLOUR);
  }

  missingPosition(): string | null {
    return this.has(AXES) ? null : 'its vertices have no positions';
  }

  /** Names the first position that is not finite. */
  unfitPosition(): string | null {
    for (const axis of AXES) {
      const i = this.columns[axis].findIndex((value) => !Number.isFinite(value));
      if (i >= 0) return `the position of vertex ${i} is ${this.columns[axis][i]}`;
    }
    return null;
  }

  /** x y z of each corner. */
  pointsOf(corners: Int32Array): Float64Array {
    const points = new Float64Array(corners.length * 3);
    AXES.forEach((axis, k) => {
      const column = this.columns[axis];
      if (column) for (let i = 0; i < corners.length; i++) points[i * 3 + k] = column[corners[i]];
    });
    return points;
  }

  /** Attributes as a part holds them. */
  written({ from, uvs }: Split): Pick<Imported['parts'][number], 'positions' | 'normals' | 'uvs' | 'colors'> {
    const pick = (names: string[], map: (v: number, name: string) => number): Float32Array =>
      this.gathered(names, from, map);
    const share = (v: number, name: string) => {
      const full = FULL[this.kinds[name]];
      return Math.min(1, Math.max(0, full ? v / full : finiteOr0(v)));
    };
    const normals = this.has(NORMAL) ? pick(NORMAL, finiteOr0) : null;
    if (normals) normalise(normals);
    const flipped = (v: number, name: string) => (name === 'v' ? 1 - finiteOr0(v) : finiteOr0(v));
    const linear = (v: number, name: string) => (name === 'alpha' ? share(v, name) : srgbToLinear(share(v, name)));
    return {
      positions: pick(AXES, (v) => v),
      normals,
      uvs: uvs ?? (this.has(['u', 'v']) ? pick(['u', 'v'], flipped) : null),
      colors: this.coloured ? pick([...COLOUR, 'alpha'], linear) : null,
    };
  }

  private has(names: readonly string[]): boolean {
    return names.every((name) => this.columns[name]);
  }

  /** Columns side by side, each value mapped; 1 where a column is missing. */
  private gathered(names: string[], from: Int32Array | null, map: (v: number, name: string) => number): Float32Array {
    const count = from?.length ?? this.count;
    const out = new Float32Array(count * names.length);
    names.forEach((name, k) => {
      const column = this.columns[name];
      for (let i = 0; i < count; i++) out[i * names.length + k] = column ? map(column[from ? from[i] : i], name) : 1;
    });
    return out;
  }
}

function normalise(normals: Float32Array): void {
  for (let i = 0; i < normals.length; i += 3) {
    const length = Math.sqrt(normals[i] ** 2 + normals[i + 1] ** 2 + normals[i + 2] ** 2);
    if (length > 0) for (let k = 0; k < 3; k++) normals[i + k] /= length;
    else normals[i + 1] = 1;
  }
}

/** Splits vertices whose corners have different UVs. */
function splitByUvs(corners: Int32Array, uv: Float32Array): Split {
  const known = new Map<string, number>();
  const from: number[] = [];
  const uvs: number[] = [];
  const indices = new Uint32Array(corners.length);
  for (let i = 0; i < corners.length; i++) {
    const key = `${corners[i]} ${uv[i * 2]} ${uv[i * 2 + 1]}`;
    let vertex = known.get(key);
    if (vertex === undefined) {
      vertex = from.push(corners[i]) - 1;
      uvs.push(uv[i * 2], uv[i * 2 + 1]);
      known.set(key, vertex);
    }
    indices[i] = vertex;
  }
  return { from: Int32Array.from(from), indices, uvs: Float32Array.from(uvs) };
}
