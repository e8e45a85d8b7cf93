import { buildGlb } from '@wembrel/core/formats/gltf/glb';
import { LIVE_SLOT } from './live-slot.ts';

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
  const binary = new Uint8Array(floats.byteLength + indices.byteLength);
  binary.set(new Uint8Array(floats.buffer), 0);
  binary.set(new Uint8Array(indices.buffer), floats.byteLength);
  return Uint8Array.from(buildGlb(json, binary));
}
