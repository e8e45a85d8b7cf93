import { buildGlb, parseGlb } from '@wembrel/core/formats/gltf/glb';
import { sign } from '../broken.ts';

type Json = Record<string, unknown>;

/** A glTF document as it is stored, free to be changed. */
export interface GltfJson {
  [key: string]: unknown;
  nodes: Json[];
  scenes?: Json[];
  meshes: { [key: string]: unknown; primitives: { attributes: Record<string, number>; [key: string]: unknown }[] }[];
  materials: Json[];
  images: Json[];
  textures: Json[];
  accessors: { [key: string]: unknown; bufferView: number; count: number }[];
  bufferViews: Json[];
  buffers: { byteLength: number }[];
}

const COMPONENTS = new Map<unknown, number>([
  [Int8Array, 5120],
  [Uint8Array, 5121],
  [Int16Array, 5122],
  [Uint16Array, 5123],
  [Uint32Array, 5125],
  [Float32Array, 5126],
]);
const WIDTHS = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT4: 16 };

type Values = Int8Array | Uint8Array | Int16Array | Uint16Array | Uint32Array | Float32Array;

/** A GLB taken apart, to be changed and packed again. */
export class GltfEdit {
  readonly json: GltfJson;
  private bin: Uint8Array;

  constructor(glb: Uint8Array) {
    const { json, bin } = parseGlb('demo', glb);
    this.json = json as unknown as GltfJson;
    this.bin = new Uint8Array(bin ?? []);
  }

  /** The first primitive. */
  get primitive(): GltfJson['meshes'][number]['primitives'][number] {
    return this.json.meshes[0].primitives[0];
  }

  /** Vertices of the first primitive. */
  get count(): number {
    return this.json.accessors[this.primitive.attributes.POSITION].count;
  }

  /** The numbers of an attribute of the first primitive, to be written to. */
  floats(semantic: string): Float32Array {
    const accessor = this.json.accessors[this.primitive.attributes[semantic]];
    const { byteOffset = 0 } = this.json.bufferViews[accessor.bufferView] as { byteOffset?: number };
    const width = WIDTHS[accessor.type as keyof typeof WIDTHS];
    return new Float32Array(this.bin.buffer, this.bin.byteOffset + byteOffset, accessor.count * width);
  }

  /** Appends a view. @returns its index */
  view(bytes: Uint8Array): number {
    const byteOffset = Math.ceil(this.bin.length / 4) * 4;
    const bin = new Uint8Array(byteOffset + Math.ceil(bytes.length / 4) * 4);
    bin.set(this.bin);
    bin.set(bytes, byteOffset);
    this.bin = bin;
    this.json.buffers[0].byteLength = bin.length;
    return this.json.bufferViews.push({ buffer: 0, byteOffset, byteLength: bytes.length }) - 1;
  }

  /** Appends an accessor. @returns its index */
  accessor(values: Values, type: keyof typeof WIDTHS, more: Json = {}): number {
    const bufferView = this.view(new Uint8Array(values.buffer, values.byteOffset, values.byteLength));
    const componentType = COMPONENTS.get(values.constructor);
    return (
      this.json.accessors.push({ bufferView, componentType, count: values.length / WIDTHS[type], type, ...more }) - 1
    );
  }

  /** Adds a node to the scene that is shown. @returns its index */
  node(node: Json): number {
    const index = this.json.nodes.push(node) - 1;
    (this.json.scenes?.[0].nodes as number[] | undefined)?.push(index);
    return index;
  }

  /** Adds an extension that a reader may ignore. */
  extension(name: string): void {
    this.json.extensionsUsed = [...new Set([...((this.json.extensionsUsed as string[] | undefined) ?? []), name])];
  }

  glb(): Uint8Array {
    return buildGlb(this.json, this.bin);
  }
}

/** The sound sign with its document changed. */
export function signWith(change: (edit: GltfEdit) => void, options?: Parameters<typeof sign>[0]): Uint8Array {
  const edit = new GltfEdit(sign(options).glb());
  change(edit);
  return edit.glb();
}
