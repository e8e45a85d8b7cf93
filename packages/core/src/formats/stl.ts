import { InputError } from '../errors.ts';
import { LIMITS } from '../limits.ts';
import { crossOf } from '../math/triangle.ts';
import { byteColumn, weldVertices } from '../mesh/weld.ts';
import { utf8 } from './gltf/glb.ts';
import type { Imported } from './imported.ts';
import { plainMaterial } from './obj/mtl.ts';
import { Numbers, Tokenizer } from './tokenizer.ts';

/** Corners (9 numbers a triangle) and what the file says of each facet's normal. */
interface Facets {
  corners: Float32Array;
  normals: Float32Array;
  coloured: boolean;
}

function readBinary(path: string, bytes: Uint8Array): Facets {
  if (bytes.length < 84) throw new InputError(path, 'the file is cut short');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const count = view.getUint32(80, true);
  if (bytes.length < 84 + count * 50)
    throw new InputError(path, `claims ${count} triangles, but holds ${Math.floor((bytes.length - 84) / 50)}`);
  if (count * 3 > LIMITS.accessorCount)
    throw new InputError(path, `holds ${count} triangles; at most ${LIMITS.accessorCount / 3} are read`);
  const corners = new Float32Array(count * 9);
  const normals = new Float32Array(count * 3);
  let coloured = false;
  for (let t = 0; t < count; t++) {
    const at = 84 + t * 50;
    for (let k = 0; k < 3; k++) normals[t * 3 + k] = view.getFloat32(at + k * 4, true);
    for (let k = 0; k < 9; k++) corners[t * 9 + k] = view.getFloat32(at + 12 + k * 4, true);
    if (view.getUint16(at + 48, true) & 0x8000) coloured = true;
  }
  return { corners, normals, coloured };
}

function readText(path: string, bytes: Uint8Array): Facets {
  const scan = new Tokenizer(bytes);
  const corners = new Numbers(new Float32Array(9216));
  const normals = new Numbers(new Float32Array(3072));
  const three = (into: Numbers<Float32Array>, what: string) => {
    for (let k = 0; k < 3; k++) {
      const v = scan.number();
      if (!Number.isFinite(v)) throw new InputError(path, `line ${scan.line}: ${what} is not three finite numbers`);
      into.push(v);
    }
  };
  for (; scan.at < scan.end; scan.nextLine()) {
    const key = scan.word().toLowerCase();
    if (key === 'facet') {
      if (corners.length !== normals.length * 3)
        throw new InputError(path, `line ${scan.line}: the facet before has not three corners`);
      scan.word();
      three(normals, 'a normal');
    } else if (key === 'vertex') three(corners, 'a corner');
  }
  if (corners.length !== normals.length * 3) throw new InputError(path, 'the file is cut short');
  return { corners: corners.values, normals: normals.values, coloured: false };
}

/** A binary file may begin with the word of the text form; only one whose size fits its count is binary. */
function isBinary(bytes: Uint8Array): boolean {
  if (bytes.length >= 84) {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    if (84 + view.getUint32(80, true) * 50 === bytes.length) return true;
  }
  const start = utf8(bytes.subarray(0, 512)).trimStart().toLowerCase();
  return !start.startsWith('solid') || bytes.subarray(0, Math.min(512, bytes.length)).includes(0);
}

/**
 * Reads an STL, text or binary. Every facet is flat; corners in one place with one normal become one vertex. A facet's normal
 * is computed where the stored one is nought or not finite.
 * @throws InputError
 */
export function readStl(path: string, bytes: Uint8Array): Imported {
  const { corners, normals, coloured } = isBinary(bytes) ? readBinary(path, bytes) : readText(path, bytes);
  const count = corners.length / 9;
  if (count === 0) throw new InputError(path, 'holds no triangles');
  for (let i = 0; i < corners.length; i++)
    if (!Number.isFinite(corners[i]))
      throw new InputError(path, `a corner of triangle ${Math.floor(i / 9)} is ${corners[i]}`);
  const all = new Float32Array(count * 9);
  for (let t = 0; t < count; t++) {
    let n = [...normals.subarray(t * 3, t * 3 + 3)];
    let length = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2);
    if (!(length > 0.5 && length < 2)) {
      n = [0, 0, 0];
      length = crossOf(corners, t * 3, t * 3 + 1, t * 3 + 2, n);
    }
    // + 0 makes −0 and 0 one number.
    for (let k = 0; k < 9; k++) all[t * 9 + k] = length > 0 ? n[k % 3] / length + 0 : Number(k % 3 === 2);
  }
  for (let i = 0; i < corners.length; i++) corners[i] += 0;
  const { first, count: distinct } = weldVertices([byteColumn(corners, 3), byteColumn(all, 3)], count * 3);
  const number = new Int32Array(count * 3).fill(-1);
  const positions = new Float32Array(distinct * 3);
  const outNormals = new Float32Array(distinct * 3);
  const indices = new Uint32Array(count * 3);
  let made = 0;
  for (let i = 0; i < count * 3; i++) {
    const f = first[i];
    if (number[f] < 0) {
      number[f] = made;
      positions.set(corners.subarray(f * 3, f * 3 + 3), made * 3);
      outNormals.set(all.subarray(f * 3, f * 3 + 3), made * 3);
      made++;
    }
    indices[i] = number[f];
  }
  return {
    parts: [{ name: 'solid', material: 0, positions, normals: outNormals, uvs: null, colors: null, indices }],
    materials: [plainMaterial('surface')],
    notes: coloured ? ['colours of facets are left out'] : [],
  };
}
