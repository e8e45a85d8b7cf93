import { InputError } from '../../errors.ts';
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
  v: Numbers<Int32Array>;
  t: Numbers<Int32Array>;
  /** Index of a normal; without one a code: even −2 − 2·group (smoothed), odd −3 − 2·face (flat). */
  n: Numbers<Int32Array>;
}

/**
 * Reads an OBJ: polygons with any number of corners, negative indices, objects, groups, smoothing groups, vertex colours after
 * the position. Each object becomes one mesh with a part for every material. Normals that are not there are made: flat,
 * or smoothed over the faces of one smoothing group.
 * @param materials of the material files, in their order
 * @throws InputError naming the line
 */
export function readObj(path: string, bytes: Uint8Array, materials: ImportedMaterial[]): Imported {
  const scan = new Tokenizer(bytes);
  const v = new Numbers(new Float64Array(3072));
  const vt = new Numbers(new Float32Array(2048));
  const vn = new Numbers(new Float32Array(3072));
  const colors = new Numbers(new Float32Array(64));
  const bins = new Map<string, Bin>();
  const table = [...materials];
  const byName = new Map<string, number>();
  materials.forEach((material, i) => {
    if (!byName.has(material.name)) byName.set(material.name, i);
  });
  const missing = new Set<string>();
  const notes: string[] = [];
  let object = '';
  let group = '';
  let material: number | null = null;
  let smoothing = 0;
  let faces = 0;
  let coloured = true;
  let bin: Bin | null = null;
  const corner = new Numbers(new Int32Array(64));
  let points = new Float64Array(12);
  const fail = (reason: string): never => {
    throw new InputError(path, `line ${scan.line}: ${reason}`);
  };
  const finite = (what: string): number => {
    const x = scan.number();
    if (!Number.isFinite(x)) fail(`${what} is not a finite number`);
    return x;
  };
  const index = (given: number, count: number, what: string): number => {
    if (!Number.isInteger(given) || given === 0) fail(`${what} is ${given}, which is not an index`);
    const i = given > 0 ? given - 1 : count + given;
    if (i < 0 || i >= count) fail(`names ${what} ${given}, but there are ${count} so far`);
    return i;
  };
  const face = (): void => {
    corner.length = 0;
    for (;;) {
      scan.blanks();
      if (scan.endOfLine) break;
      const a = index(scan.number(), v.length / 3, 'position');
      let t = -1;
      let n = -1;
      if (bytes[scan.at] === 47) {
        scan.at++;
        if (bytes[scan.at] !== 47 && bytes[scan.at] > 32) t = index(scan.number(), vt.length / 2, 'UV');
        if (bytes[scan.at] === 47) {
          scan.at++;
          if (bytes[scan.at] > 32) n = index(scan.number(), vn.length / 3, 'normal');
        }
      }
      if (!scan.endOfLine && bytes[scan.at] > 32) fail('a corner of the face cannot be read');
      corner.push(a);
      corner.push(t);
      corner.push(n >= 0 ? n : smoothing > 0 ? -2 - 2 * smoothing : -3 - 2 * faces);
    }
    const c = corner.values;
    const corners = c.length / 3;
    if (corners < 3) fail(`a face has ${corners} corner${corners === 1 ? '' : 's'}`);
    if (!bin) {
      const key = JSON.stringify([object || group, material]);
      bin = bins.get(key) ?? {
        name: object || group || 'mesh',
        material,
        v: new Numbers(new Int32Array(384)),
        t: new Numbers(new Int32Array(384)),
        n: new Numbers(new Int32Array(384)),
      };
      bins.set(key, bin);
    }
    if (points.length !== corners * 3) points = new Float64Array(corners * 3);
    const p = v.values;
    for (let i = 0; i < corners; i++) for (let k = 0; k < 3; k++) points[i * 3 + k] = p[c[i * 3] * 3 + k];
    for (const i of triangulate(points)) {
      bin.v.push(c[i * 3]);
      bin.t.push(c[i * 3 + 1]);
      bin.n.push(c[i * 3 + 2]);
    }
    faces++;
    if (bin.v.length > LIMITS.accessorCount) fail(`more than ${LIMITS.accessorCount} corners in one part`);
  };
  for (; scan.at < scan.end; scan.nextLine()) {
    scan.blanks();
    if (scan.endOfLine || bytes[scan.at] === 35) continue;
    const key = scan.word();
    if (key === 'v') {
      for (let k = 0; k < 3; k++) v.push(finite('a position'));
      scan.blanks();
      if (coloured && !scan.endOfLine) {
        const rgb = [scan.number(), scan.number(), scan.number()];
        if (rgb.every(Number.isFinite)) for (const x of rgb) colors.push(toLinear(x));
      }
      if (colors.length !== v.length) coloured = false;
    } else if (key === 'vt') {
      vt.push(finite('a UV'));
      scan.blanks();
      vt.push(scan.endOfLine ? 1 : 1 - finite('a UV'));
    } else if (key === 'vn') for (let k = 0; k < 3; k++) vn.push(finite('a normal'));
    else if (key === 'f' || key === 'fo') face();
    else if (key === 'o') {
      object = scan.rest();
      bin = null;
    } else if (key === 'g') {
      group = scan.rest();
      bin = null;
    } else if (key === 's') {
      const g = scan.word();
      smoothing = g === 'off' || g === '0' || g === '' ? 0 : Math.min(1e6, Math.max(1, Math.abs(Number(g)) || 1));
      smoothing = Math.floor(smoothing);
    } else if (key === 'usemtl') {
      const name = scan.rest();
      bin = null;
      let m = byName.get(name);
      if (m === undefined) {
        missing.add(name);
        m = table.push(plainMaterial(name || 'no name')) - 1;
        byName.set(name, m);
      }
      material = m;
    } else if (key === 'l' || key === 'p') notes.push('points and lines are left out');
    else if (/^(curv|surf|bzp|cstype)/.test(key)) notes.push('free-form curves and surfaces are left out');
  }
  if (bins.size === 0) throw new InputError(path, 'holds no faces');
  if (missing.size > 0)
    notes.push(`no material file says what ${[...missing].map((name) => `"${name}"`).join(', ')} is`);
  const used = new Set([...bins.values()].map((bin) => bin.material));
  const renumber = new Map<number, number>();
  table.forEach((_, i) => {
    if (used.has(i)) renumber.set(i, renumber.size);
  });
  return {
    parts: [...bins.values()].map((bin) =>
      buildPart(bin, v.values, vt.values, vn.values, coloured && colors.length > 0 ? colors.values : null, renumber),
    ),
    materials: table.filter((_, i) => used.has(i)),
    notes: [...new Set(notes)],
  };
}

const toLinear = (c: number): number => {
  const x = Math.min(1, Math.max(0, c));
  return x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4;
};

function buildPart(
  bin: Bin,
  v: Float64Array,
  vt: Float32Array,
  vn: Float32Array,
  colors: Float32Array | null,
  renumber: ReadonlyMap<number, number>,
): ImportedPart {
  const [bv, bt, bn] = [bin.v.values, bin.t.values, bin.n.values];
  const table = new CornerTable(bv.length / 4);
  const indices = new Uint32Array(bv.length);
  for (let i = 0; i < bv.length; i++) indices[i] = table.add(bv[i], bt[i], bn[i]);
  const made = madeNormals(bv, bn, v);
  const count = table.count;
  const positions = new Float32Array(count * 3);
  const normals = new Float32Array(count * 3);
  const hasUv = bt.some((t) => t >= 0);
  const uvs = hasUv ? new Float32Array(count * 2) : null;
  const rgba = colors ? new Float32Array(count * 4) : null;
  for (let i = 0; i < count; i++) {
    const p = table.keyAt(i, 0) * 3;
    const t = table.keyAt(i, 1) * 2;
    const n = table.keyAt(i, 2);
    for (let k = 0; k < 3; k++) positions[i * 3 + k] = v[p + k];
    const from = n >= 0 ? vn.subarray(n * 3, n * 3 + 3) : made(table.keyAt(i, 0), n);
    const length = Math.sqrt(from[0] ** 2 + from[1] ** 2 + from[2] ** 2);
    for (let k = 0; k < 3; k++) normals[i * 3 + k] = length > 0 ? from[k] / length : Number(k === 1);
    if (uvs && t >= 0) uvs.set(vt.subarray(t, t + 2), i * 2);
    if (rgba && colors) rgba.set([colors[p], colors[p + 1], colors[p + 2], 1], i * 4);
  }
  return {
    name: bin.name,
    material: bin.material === null ? null : (renumber.get(bin.material) ?? null),
    positions,
    normals,
    uvs,
    colors: rgba,
    indices,
  };
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
