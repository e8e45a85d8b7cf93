import { LIVE_SLOT } from './live-slot.ts';

const ALIGN = 4;
const GLB = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BINARY_CHUNK = 0x004e4942;
const FLOATS = 5126;
const SHORTS = 5123;

/** A square that lies on the ground and shows one sheet, as GLB. @param metres of its sides */
export function cellGlb([width, depth]: readonly [number, number]): Uint8Array<ArrayBuffer> {
  const [x, z] = [width / 2, depth / 2];
  const positions = [-x, 0, -z, x, 0, -z, x, 0, z, -x, 0, z];
  const normals = [0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0];
  const uvs = [0, 0, 1, 0, 1, 1, 0, 1];
  const floats = Float32Array.from([...positions, ...normals, ...uvs]);
  const indices = Uint16Array.from([0, 3, 2, 0, 2, 1]);
  const view = (byteOffset: number, byteLength: number) => ({ buffer: 0, byteOffset, byteLength });
  const json = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0, name: 'cell' }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0, NORMAL: 1, TEXCOORD_0: 2 }, indices: 3, material: 0 }] }],
    materials: [{ name: LIVE_SLOT }],
    buffers: [{ byteLength: floats.byteLength + indices.byteLength }],
    bufferViews: [view(0, 48), view(48, 48), view(96, 32), view(128, indices.byteLength)],
    accessors: [
      { bufferView: 0, componentType: FLOATS, count: 4, type: 'VEC3', min: [-x, 0, -z], max: [x, 0, z] },
      { bufferView: 1, componentType: FLOATS, count: 4, type: 'VEC3' },
      { bufferView: 2, componentType: FLOATS, count: 4, type: 'VEC2' },
      { bufferView: 3, componentType: SHORTS, count: 6, type: 'SCALAR' },
    ],
  };
  const text = new TextEncoder().encode(JSON.stringify(json));
  const chunk = (type: number, bytes: Uint8Array, fill: number) => {
    const length = Math.ceil(bytes.length / ALIGN) * ALIGN;
    const out = new Uint8Array(8 + length).fill(fill, 8);
    new DataView(out.buffer).setUint32(0, length, true);
    new DataView(out.buffer).setUint32(4, type, true);
    out.set(bytes, 8);
    return out;
  };
  const binary = new Uint8Array(floats.byteLength + indices.byteLength);
  binary.set(new Uint8Array(floats.buffer), 0);
  binary.set(new Uint8Array(indices.buffer), floats.byteLength);
  const chunks = [chunk(JSON_CHUNK, text, 0x20), chunk(BINARY_CHUNK, binary, 0)];
  const out = new Uint8Array(12 + chunks.reduce((sum, one) => sum + one.length, 0));
  const head = new DataView(out.buffer);
  head.setUint32(0, GLB, true);
  head.setUint32(4, 2, true);
  head.setUint32(8, out.length, true);
  let at = 12;
  for (const one of chunks) {
    out.set(one, at);
    at += one.length;
  }
  return out;
}
