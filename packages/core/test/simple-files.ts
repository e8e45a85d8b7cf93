import { utf8Bytes } from '../src/formats/gltf/glb.ts';
import { numbers } from './build.ts';

/** Writers of simple formats, for the tests of their readers. */
export interface SimpleMesh {
  positions: Float32Array;
  indices: Uint32Array;
  /** V down. */
  uvs: Float32Array | null;
}

export const CUBE_OBJ = `v -0.5 -0.5 -0.5
v 0.5 -0.5 -0.5
v 0.5 0.5 -0.5
v -0.5 0.5 -0.5
v -0.5 -0.5 0.5
v 0.5 -0.5 0.5
v 0.5 0.5 0.5
v -0.5 0.5 0.5
# faces
f 5 6 7 8
f 2 1 4 3
f 6 2 3 7
f 1 5 8 4
f 8 7 3 4
f 1 2 6 5
`;

/** Triangles with area over random points; coordinates have three decimals, so that text holds them exactly enough. */
export function randomMesh(seed: number, triangles: number): SimpleMesh {
  const next = numbers(seed);
  const count = triangles + 2;
  const round = (v: number) => Math.round(v * 1000) / 1000;
  const positions = Float32Array.from({ length: count * 3 }, () => round(next() * 4 - 2));
  const uvs = Float32Array.from({ length: count * 2 }, () => round(next()));
  const indices = Uint32Array.from({ length: triangles * 3 }, (_, i) => Math.floor(i / 3) + (i % 3));
  return { positions, uvs, indices };
}

const vec = (a: Float32Array, i: number, n: number) =>
  [...a.subarray(i * n, i * n + n)].map((v) => String(Math.fround(v)));

export function toObj({ positions, uvs, indices }: SimpleMesh): Uint8Array {
  const lines = ['# mesh', 'o mesh', 'usemtl surface'];
  for (let v = 0; v < positions.length / 3; v++) lines.push(`v ${vec(positions, v, 3).join(' ')}`);
  if (uvs) for (let v = 0; v < uvs.length / 2; v++) lines.push(`vt ${uvs[v * 2]} ${1 - uvs[v * 2 + 1]}`);
  for (let t = 0; t < indices.length; t += 3)
    lines.push(
      `f ${[0, 1, 2].map((k) => (uvs ? `${indices[t + k] + 1}/${indices[t + k] + 1}` : indices[t + k] + 1)).join(' ')}`,
    );
  return utf8Bytes(`${lines.join('\n')}\n`);
}

function plyHeader(format: string, simpleMesh: SimpleMesh): string {
  return [
    'ply',
    `format ${format} 1.0`,
    'comment made for a test',
    `element vertex ${simpleMesh.positions.length / 3}`,
    ...['x', 'y', 'z', ...(simpleMesh.uvs ? ['s', 't'] : [])].map((path) => `property float ${path}`),
    'property uchar red',
    'property uchar green',
    'property uchar blue',
    `element face ${simpleMesh.indices.length / 3}`,
    'property list uchar int vertex_indices',
    'end_header',
    '',
  ].join('\n');
}

export function plyText(simpleMesh: SimpleMesh): Uint8Array {
  const lines: string[] = [];
  for (let v = 0; v < simpleMesh.positions.length / 3; v++)
    lines.push(
      [
        ...vec(simpleMesh.positions, v, 3),
        ...(simpleMesh.uvs ? [simpleMesh.uvs[v * 2], 1 - simpleMesh.uvs[v * 2 + 1]] : []),
        v % 256,
        128,
        0,
      ].join(' '),
    );
  for (let t = 0; t < simpleMesh.indices.length; t += 3)
    lines.push(`3 ${[...simpleMesh.indices.subarray(t, t + 3)].join(' ')}`);
  return utf8Bytes(`${plyHeader('ascii', simpleMesh)}${lines.join('\n')}\n`);
}

export function plyBinary(simpleMesh: SimpleMesh, little: boolean): Uint8Array {
  const head = utf8Bytes(plyHeader(little ? 'binary_little_endian' : 'binary_big_endian', simpleMesh));
  const count = simpleMesh.positions.length / 3;
  const out = new Uint8Array(head.length + count * (simpleMesh.uvs ? 23 : 15) + (simpleMesh.indices.length / 3) * 13);
  out.set(head);
  const view = new DataView(out.buffer);
  let at = head.length;
  for (let v = 0; v < count; v++) {
    const floats = [
      ...simpleMesh.positions.subarray(v * 3, v * 3 + 3),
      ...(simpleMesh.uvs ? [simpleMesh.uvs[v * 2], 1 - simpleMesh.uvs[v * 2 + 1]] : []),
    ];
    for (const float of floats) {
      view.setFloat32(at, float, little);
      at += 4;
    }
    out.set([v % 256, 128, 0], at);
    at += 3;
  }
  for (let t = 0; t < simpleMesh.indices.length; t += 3) {
    out[at++] = 3;
    for (let k = 0; k < 3; k++, at += 4) view.setInt32(at, simpleMesh.indices[t + k], little);
  }
  return out;
}

export function stlText(simpleMesh: SimpleMesh): Uint8Array {
  const lines = ['solid mesh'];
  for (let t = 0; t < simpleMesh.indices.length; t += 3) {
    lines.push(`facet normal ${normalOf(simpleMesh, t).join(' ')}`, 'outer loop');
    for (let k = 0; k < 3; k++)
      lines.push(`vertex ${vec(simpleMesh.positions, simpleMesh.indices[t + k], 3).join(' ')}`);
    lines.push('endloop', 'endfacet');
  }
  lines.push('endsolid mesh', '');
  return utf8Bytes(lines.join('\n'));
}

/** @param blank leave the normals nought */
export function stlBinary(simpleMesh: SimpleMesh, blank = false): Uint8Array {
  const count = simpleMesh.indices.length / 3;
  const out = new Uint8Array(84 + count * 50);
  const view = new DataView(out.buffer);
  view.setUint32(80, count, true);
  for (let t = 0; t < count; t++) {
    const at = 84 + t * 50;
    const n = blank ? [0, 0, 0] : normalOf(simpleMesh, t * 3);
    for (let k = 0; k < 3; k++) view.setFloat32(at + k * 4, n[k], true);
    for (let k = 0; k < 9; k++)
      view.setFloat32(
        at + 12 + k * 4,
        simpleMesh.positions[simpleMesh.indices[t * 3 + Math.floor(k / 3)] * 3 + (k % 3)],
        true,
      );
  }
  return out;
}

function normalOf(simpleMesh: SimpleMesh, t: number): number[] {
  const p = (k: number) => [
    ...simpleMesh.positions.subarray(simpleMesh.indices[t + k] * 3, simpleMesh.indices[t + k] * 3 + 3),
  ];
  const [a, b, c] = [p(0), p(1), p(2)];
  const e = b.map((v, i) => v - a[i]);
  const f = c.map((v, i) => v - a[i]);
  const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]];
  const l = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2) || 1;
  return n.map((v) => v / l);
}
