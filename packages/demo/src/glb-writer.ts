import { buildGlb } from '@wembrel/core/formats/gltf/glb';

type Json = Record<string, unknown>;

/** Collects the pieces of a GLB; each method returns the index of what it added. */
export class GlbWriter {
  private readonly chunks: Uint8Array[] = [];
  private length = 0;
  readonly json: {
    asset: Json;
    scene: number;
    scenes: { nodes: number[] }[];
    nodes: Json[];
    meshes: Json[];
    materials: Json[];
    textures: Json[];
    images: Json[];
    samplers: Json[];
    accessors: Json[];
    bufferViews: Json[];
    buffers: Json[];
    extensionsUsed?: string[];
  } = {
    asset: { version: '2.0', generator: 'Quillmoor Halt' },
    scene: 0,
    scenes: [{ nodes: [] }],
    nodes: [],
    meshes: [],
    materials: [],
    textures: [],
    images: [],
    samplers: [],
    accessors: [],
    bufferViews: [],
    buffers: [],
  };

  view(bytes: Uint8Array, target?: number): number {
    const pad = (4 - (this.length % 4)) % 4;
    if (pad) this.chunks.push(new Uint8Array(pad));
    this.length += pad;
    const view: Json = { buffer: 0, byteOffset: this.length, byteLength: bytes.length };
    if (target) view.target = target;
    this.chunks.push(bytes);
    this.length += bytes.length;
    return this.json.bufferViews.push(view) - 1;
  }

  floats(values: Float32Array, type: 'VEC2' | 'VEC3' | 'VEC4', bounds = false): number {
    const size = { VEC2: 2, VEC3: 3, VEC4: 4 }[type];
    const accessor: Json = {
      bufferView: this.view(new Uint8Array(values.buffer, values.byteOffset, values.byteLength), 34962),
      componentType: 5126,
      count: values.length / size,
      type,
    };
    if (bounds) {
      const min = new Array<number>(size).fill(Infinity);
      const max = new Array<number>(size).fill(-Infinity);
      values.forEach((v, i) => {
        min[i % size] = Math.min(min[i % size], v);
        max[i % size] = Math.max(max[i % size], v);
      });
      accessor.min = min;
      accessor.max = max;
    }
    return this.json.accessors.push(accessor) - 1;
  }

  indices(values: Uint32Array): number {
    const max = values.reduce((greatest, value) => Math.max(greatest, value), 0);
    const small = max < 65535;
    const array = small ? Uint16Array.from(values) : values;
    const view = this.view(new Uint8Array(array.buffer, array.byteOffset, array.byteLength), 34963);
    return (
      this.json.accessors.push({
        bufferView: view,
        componentType: small ? 5123 : 5125,
        count: values.length,
        type: 'SCALAR',
      }) - 1
    );
  }

  /** An image inside the file and a texture that reads it. */
  texture(png: Uint8Array, name: string): number {
    const image = this.json.images.push({ bufferView: this.view(png), mimeType: 'image/png', name }) - 1;
    if (this.json.samplers.length === 0)
      this.json.samplers.push({ magFilter: 9729, minFilter: 9987, wrapS: 10497, wrapT: 10497 });
    return this.json.textures.push({ source: image, sampler: 0, name }) - 1;
  }

  material(material: Json): number {
    const used = new Set(this.json.extensionsUsed ?? []);
    for (const k of Object.keys((material.extensions as Json | undefined) ?? {})) used.add(k);
    if (JSON.stringify(material).includes('KHR_texture_transform')) used.add('KHR_texture_transform');
    if (used.size > 0) this.json.extensionsUsed = [...used].sort();
    return this.json.materials.push(material) - 1;
  }

  mesh(name: string, primitives: Json[]): number {
    return this.json.meshes.push({ name, primitives }) - 1;
  }

  /** Adds a node to the scene, or below a parent. */
  node(node: Json, parent?: number): number {
    const index = this.json.nodes.push(node) - 1;
    if (parent === undefined) this.json.scenes[0].nodes.push(index);
    else {
      const json = this.json.nodes[parent];
      json.children = [...((json.children as number[] | undefined) ?? []), index];
    }
    return index;
  }

  /** All binary data. */
  bin(): Uint8Array {
    const out = new Uint8Array(this.length);
    let at = 0;
    for (const chunk of this.chunks) {
      out.set(chunk, at);
      at += chunk.length;
    }
    return out;
  }

  /** The document with empty lists left out, as the schema asks. */
  document(bufferUri?: string): Json {
    const bin: Json = { byteLength: this.length };
    if (bufferUri) bin.uri = bufferUri;
    const all: Json = { ...this.json, buffers: [bin] };
    return Object.fromEntries(Object.entries(all).filter(([, v]) => !Array.isArray(v) || v.length > 0));
  }

  glb(): Uint8Array {
    return buildGlb(this.document(), this.bin());
  }
}
