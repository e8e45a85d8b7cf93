import { InputError } from '../../errors.ts';
import { srgbToLinear } from '../../image/srgb.ts';
import { LIMITS } from '../../limits.ts';
import { addByAngle } from '../../math/triangle.ts';
import { CornerTable } from '../corners.ts';
import type { Imported, ImportedMaterial, ImportedPart } from '../imported.ts';
import { Numbers, Tokenizer } from '../tokenizer.ts';
import { triangulate } from '../triangulate.ts';
import { plainMaterial } from './mtl.ts';

/** Names of the material files that an OBJ asks for, in order. */
export function materialLibraries(bytes: Uint8Array): string[] {
  const out: string[] = [];
  const scan = new Tokenizer(bytes);
  for (; scan.at < scan.end; scan.nextLine()) {
    scan.blanks();
    // m
    if (bytes[scan.at] !== 109 || scan.word() !== 'mtllib') continue;
    const name = scan.rest();
    if (name && !out.includes(name)) out.push(name);
  }
  return out;
}

/** Corners of the faces that share an object and a material. */
interface Bin {
  name: string;
  material: number | null;
  positions: Numbers<Int32Array>;
  uvs: Numbers<Int32Array>;
  /** Index of a normal; without one a code: even −2 − 2·group (smoothed), odd −3 − 2·face (flat). */
  normals: Numbers<Int32Array>;
}

/** The values that faces name by index. */
interface Values {
  positions: Float64Array;
  uvs: Float32Array;
  normals: Float32Array;
  /** Linear colours by position, if every position has one. */
  colors: Float32Array | null;
}

const SLASH = 47;
const HASH = 35;
const SPACE = 32;

/**
 * Reads an OBJ: polygons with any number of corners, negative indices, objects, groups, smoothing groups, vertex colours after
 * the position. Each object becomes one mesh with a part for every material. Normals that are not there are made: flat,
 * or smoothed over the faces of one smoothing group.
 * @param materials of the material files, in their order
 * @throws InputError naming the line
 */
export function readObj(path: string, bytes: Uint8Array, materials: ImportedMaterial[]): Imported {
  return new ObjReader(path, bytes, materials).read();
}

class ObjReader {
  private readonly scan: Tokenizer;
  private readonly positions = new Numbers(new Float64Array(3072));
  private readonly uvs = new Numbers(new Float32Array(2048));
  private readonly normals = new Numbers(new Float32Array(3072));
  private readonly colors = new Numbers(new Float32Array(64));
  private readonly bins = new Map<string, Bin>();
  private readonly table: ImportedMaterial[];
  private readonly byName = new Map<string, number>();
  private readonly missing = new Set<string>();
  private readonly notes = new Set<string>();
  private object = '';
  private group = '';
  private material: number | null = null;
  private smoothing = 0;
  private faces = 0;
  private coloured = true;
  /** Where the next face goes; null after a change of object, group or material. */
  private bin: Bin | null = null;
  /** Position, UV and normal of each corner of the face being read. */
  private readonly corners = new Numbers(new Int32Array(64));
  private points = new Float64Array(12);

  constructor(
    private readonly path: string,
    private readonly bytes: Uint8Array,
    materials: ImportedMaterial[],
  ) {
    this.scan = new Tokenizer(bytes);
    this.table = [...materials];
    materials.forEach((material, i) => {
      if (!this.byName.has(material.name)) this.byName.set(material.name, i);
    });
  }

  read(): Imported {
    const { scan, bytes } = this;
    for (; scan.at < scan.end; scan.nextLine()) {
      scan.blanks();
      if (!scan.endOfLine && bytes[scan.at] !== HASH) this.readLine(scan.word());
    }
    return this.result();
  }

  private readLine(key: string): void {
    if (key === 'v') this.readPosition();
    else if (key === 'vt') this.readUv();
    else if (key === 'vn') for (let k = 0; k < 3; k++) this.normals.push(this.finite('a normal'));
    else if (key === 'f' || key === 'fo') this.readFace();
    else if (key === 'o') {
      this.object = this.scan.rest();
      this.bin = null;
    } else if (key === 'g') {
      this.group = this.scan.rest();
      this.bin = null;
    } else if (key === 's') this.smoothing = smoothingGroup(this.scan.word());
    else if (key === 'usemtl') this.useMaterial(this.scan.rest());
    else if (key === 'l' || key === 'p') this.notes.add('points and lines are left out');
    else if (/^(curv|surf|bzp|cstype)/.test(key)) this.notes.add('free-form curves and surfaces are left out');
  }

  private readPosition(): void {
    const { scan, colors, positions } = this;
    for (let k = 0; k < 3; k++) positions.push(this.finite('a position'));
    scan.blanks();
    if (this.coloured && !scan.endOfLine) {
      const rgb = [scan.number(), scan.number(), scan.number()];
      if (rgb.every(Number.isFinite)) for (const value of rgb) colors.push(toLinear(value));
    }
    if (colors.length !== positions.length) this.coloured = false;
  }

  private readUv(): void {
    this.uvs.push(this.finite('a UV'));
    this.scan.blanks();
    this.uvs.push(this.scan.endOfLine ? 1 : 1 - this.finite('a UV'));
  }

  private useMaterial(name: string): void {
    this.bin = null;
    let at = this.byName.get(name);
    if (at === undefined) {
      this.missing.add(name);
      at = this.table.push(plainMaterial(name || 'no name')) - 1;
      this.byName.set(name, at);
    }
    this.material = at;
  }

  private readFace(): void {
    this.readCorners();
    const corners = this.corners.values;
    const count = corners.length / 3;
    if (count < 3) this.fail(`a face has ${count} corner${count === 1 ? '' : 's'}`);
    this.bin ??= this.binOfNow();
    if (this.points.length !== count * 3) this.points = new Float64Array(count * 3);
    const { points, bin } = this;
    const positions = this.positions.values;
    for (let i = 0; i < count; i++) for (let k = 0; k < 3; k++) points[i * 3 + k] = positions[corners[i * 3] * 3 + k];
    for (const i of triangulate(points)) {
      bin.positions.push(corners[i * 3]);
      bin.uvs.push(corners[i * 3 + 1]);
      bin.normals.push(corners[i * 3 + 2]);
    }
    this.faces++;
    if (bin.positions.length > LIMITS.accessorCount) this.fail(`more than ${LIMITS.accessorCount} corners in one part`);
  }

  private readCorners(): void {
    const { scan, bytes, corners } = this;
    corners.length = 0;
    for (;;) {
      scan.blanks();
      if (scan.endOfLine) return;
      const position = this.index(this.positions.length / 3, 'position');
      let uv = -1;
      let normal = this.smoothing > 0 ? -2 - 2 * this.smoothing : -3 - 2 * this.faces;
      if (bytes[scan.at] === SLASH) {
        scan.at++;
        if (bytes[scan.at] !== SLASH && bytes[scan.at] > SPACE) uv = this.index(this.uvs.length / 2, 'UV');
        if (bytes[scan.at] === SLASH) {
          scan.at++;
          if (bytes[scan.at] > SPACE) normal = this.index(this.normals.length / 3, 'normal');
        }
      }
      if (!scan.endOfLine && bytes[scan.at] > SPACE) this.fail('a corner of the face cannot be read');
      corners.push(position);
      corners.push(uv);
      corners.push(normal);
    }
  }

  private binOfNow(): Bin {
    const { group, object, material } = this;
    const key = JSON.stringify([object || group, material]);
    const numbers = () => new Numbers(new Int32Array(384));
    let bin = this.bins.get(key);
    if (!bin) {
      const name = object || group || 'mesh';
      bin = { name, material, positions: numbers(), uvs: numbers(), normals: numbers() };
      this.bins.set(key, bin);
    }
    return bin;
  }

  private result(): Imported {
    const { bins, table, missing, notes, colors } = this;
    if (bins.size === 0) throw new InputError(this.path, 'holds no faces');
    if (missing.size > 0)
      notes.add(`no material file says what ${[...missing].map((name) => `"${name}"`).join(', ')} is`);
    const used = new Set([...bins.values()].map((bin) => bin.material));
    const renumbered = new Map<number, number>();
    table.forEach((_, i) => {
      if (used.has(i)) renumbered.set(i, renumbered.size);
    });
    const values: Values = {
      positions: this.positions.values,
      uvs: this.uvs.values,
      normals: this.normals.values,
      colors: this.coloured && colors.length > 0 ? colors.values : null,
    };
    return {
      parts: [...bins.values()].map((bin) =>
        buildPart(bin, values, bin.material === null ? null : (renumbered.get(bin.material) ?? null)),
      ),
      materials: table.filter((_, i) => used.has(i)),
      notes: [...notes],
    };
  }

  /** Position of what a corner names, counted from the first (positive) or from the last so far (negative). */
  private index(count: number, what: string): number {
    const given = this.scan.number();
    if (!Number.isInteger(given) || given === 0) this.fail(`${what} is ${given}, which is not an index`);
    const i = given > 0 ? given - 1 : count + given;
    if (i < 0 || i >= count) this.fail(`names ${what} ${given}, but there are ${count} so far`);
    return i;
  }

  private finite(what: string): number {
    const value = this.scan.number();
    if (!Number.isFinite(value)) this.fail(`${what} is not a finite number`);
    return value;
  }

  private fail(reason: string): never {
    throw new InputError(this.path, `line ${this.scan.line}: ${reason}`);
  }
}

/** Number of a smoothing group, 0 for none. Words that are not numbers count as group 1. */
function smoothingGroup(word: string): number {
  if (word === 'off' || word === '0' || word === '') return 0;
  return Math.floor(Math.min(1e6, Math.max(1, Math.abs(Number(word)) || 1)));
}

const toLinear = (value: number): number => srgbToLinear(Math.min(1, Math.max(0, value)));

function buildPart(bin: Bin, values: Values, material: number | null): ImportedPart {
  const [bv, bt, bn] = [bin.positions.values, bin.uvs.values, bin.normals.values];
  const table = new CornerTable(bv.length / 4);
  const indices = new Uint32Array(bv.length);
  for (let i = 0; i < bv.length; i++) indices[i] = table.add(bv[i], bt[i], bn[i]);
  const made = madeNormals(bv, bn, values.positions);
  const count = table.count;
  const positions = new Float32Array(count * 3);
  const normals = new Float32Array(count * 3);
  const uvs = bt.some((uv) => uv >= 0) ? new Float32Array(count * 2) : null;
  const { colors } = values;
  const rgba = colors ? new Float32Array(count * 4) : null;
  for (let i = 0; i < count; i++) {
    const position = table.keyAt(i, 0) * 3;
    const uv = table.keyAt(i, 1) * 2;
    const normal = table.keyAt(i, 2);
    for (let k = 0; k < 3; k++) positions[i * 3 + k] = values.positions[position + k];
    const from = normal >= 0 ? values.normals.subarray(normal * 3, normal * 3 + 3) : made(table.keyAt(i, 0), normal);
    const length = Math.sqrt(from[0] ** 2 + from[1] ** 2 + from[2] ** 2);
    for (let k = 0; k < 3; k++) normals[i * 3 + k] = length > 0 ? from[k] / length : Number(k === 1);
    if (uvs && uv >= 0) uvs.set(values.uvs.subarray(uv, uv + 2), i * 2);
    if (rgba && colors) rgba.set([colors[position], colors[position + 1], colors[position + 2], 1], i * 4);
  }
  return { name: bin.name, material, positions, normals, uvs, colors: rgba, indices };
}

/** Normals for corners that have none, by position and code: sums over the faces that share both, weighted by angle. */
function madeNormals(bv: Int32Array, bn: Int32Array, v: Float64Array): (position: number, code: number) => number[] {
  const sums = new Map<number, Map<number, number[]>>();
  for (let i = 0; i < bv.length; i += 3) {
    if (bn[i] >= 0 && bn[i + 1] >= 0 && bn[i + 2] >= 0) continue;
    addByAngle(v, [bv[i], bv[i + 1], bv[i + 2]], (k, x, y, z) => {
      const code = bn[i + k];
      if (code >= 0) return;
      // Every corner of a flat face is the face's own.
      const where = code % 2 !== 0 ? -1 : bv[i + k];
      let of = sums.get(code);
      if (!of) {
        of = new Map();
        sums.set(code, of);
      }
      const sum = of.get(where);
      if (sum) {
        sum[0] += x;
        sum[1] += y;
        sum[2] += z;
      } else of.set(where, [x, y, z]);
    });
  }
  return (position, code) => sums.get(code)?.get(code % 2 !== 0 ? -1 : position) ?? [0, 1, 0];
}
