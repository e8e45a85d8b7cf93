import { buildGlb, parseGlb } from '@wembrel/core/formats/gltf/glb';
import { sign } from '../broken.ts';

/** A glTF document as it is stored, free to be changed. */
export interface GltfJson {
  [key: string]: unknown;
  nodes: Record<string, unknown>[];
  scenes?: Record<string, unknown>[];
  meshes: { [key: string]: unknown; primitives: { attributes: Record<string, number>; [key: string]: unknown }[] }[];
  materials: Record<string, unknown>[];
  images: Record<string, unknown>[];
  accessors: { [key: string]: unknown; bufferView: number; count: number }[];
  bufferViews: { byteOffset?: number; byteLength: number }[];
}

/** Changes the JSON and the binary part of a GLB, and packs it again. */
export function changed(glb: Uint8Array, change: (json: GltfJson, bin: Uint8Array) => void): Uint8Array {
  const { json, bin } = parseGlb('demo', glb);
  const bytes = new Uint8Array(bin ?? []);
  change(json as unknown as GltfJson, bytes);
  return buildGlb(json, bytes);
}

/** The sound sign with its document changed. */
export const signWith = (change: (json: GltfJson, bin: Uint8Array) => void): Uint8Array =>
  changed(sign().glb(), change);

/** The numbers of an attribute of the first primitive, to be written to. */
export function floatsOf(json: GltfJson, bin: Uint8Array, semantic: string): Float32Array {
  const accessor = json.accessors[json.meshes[0].primitives[0].attributes[semantic]];
  const view = json.bufferViews[accessor.bufferView];
  const width = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 }[accessor.type as 'VEC3'];
  return new Float32Array(bin.buffer, bin.byteOffset + (view.byteOffset ?? 0), accessor.count * width);
}
