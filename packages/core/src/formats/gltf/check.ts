import { InputError } from '../../errors.ts';
import { LIMITS } from '../../limits.ts';

/**
 * Checks a parsed glTF document before anything is built from it: that every reference leads somewhere, every range lies
 * inside its buffer, the node tree is a tree and no count is absurd. After this, reading cannot run out of bounds.
 * Rules: glTF 2.0 specification, chapter 3 and the JSON schemas.
 */

type Json = Record<string, unknown>;

const COMPONENT_BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const TYPE_COUNT: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };
const ATTRIBUTE_TYPES: [RegExp, string[]][] = [
  [/^POSITION$|^NORMAL$/, ['VEC3']],
  [/^TANGENT$/, ['VEC4']],
  [/^TEXCOORD_\d+$/, ['VEC2']],
  [/^COLOR_\d+$/, ['VEC3', 'VEC4']],
  [/^(JOINTS|WEIGHTS)_\d+$/, ['VEC4']],
];

/** Extensions that reading understands, and so may be required by a file. */
const READABLE_EXTENSIONS: ReadonlySet<string> = new Set([
  'KHR_texture_transform',
  'KHR_mesh_quantization',
  'EXT_meshopt_compression',
  'EXT_texture_webp',
  'KHR_draco_mesh_compression',
  'KHR_texture_basisu',
  'EXT_mesh_gpu_instancing',
  'KHR_lights_punctual',
  'KHR_materials_unlit',
  'KHR_materials_emissive_strength',
  'KHR_materials_variants',
  'KHR_materials_anisotropy',
  'KHR_materials_clearcoat',
  'KHR_materials_diffuse_transmission',
  'KHR_materials_dispersion',
  'KHR_materials_ior',
  'KHR_materials_iridescence',
  'KHR_materials_pbrSpecularGlossiness',
  'KHR_materials_sheen',
  'KHR_materials_specular',
  'KHR_materials_transmission',
  'KHR_materials_volume',
  'KHR_node_visibility',
  'KHR_xmp_json_ld',
]);

export interface CheckInput {
  path: string;
  json: unknown;
  /** Bytes of the BIN chunk, or null. */
  binLength: number | null;
  /** Length of an external resource by its URI as written, or null when it was not given. */
  resourceLength: (uri: string) => number | null;
}

class Checker {
  readonly doc: Json;
  constructor(private readonly input: CheckInput) {
    if (!isObject(input.json)) this.fail('the JSON part is not an object');
    this.doc = input.json as Json;
  }

  fail(reason: string): never {
    throw new InputError(this.input.path, reason);
  }

  list(key: string, holder: Json = this.doc, where = ''): Json[] {
    const v = holder[key];
    if (v === undefined) return [];
    if (!Array.isArray(v)) this.fail(`${where}${key} is not a list`);
    if (v.length > LIMITS.arrayLength)
      this.fail(`${where}${key} has ${v.length} entries; at most ${LIMITS.arrayLength} are read`);
    v.forEach((e, i) => {
      if (!isObject(e)) this.fail(`${where}${key}[${i}] is not an object`);
    });
    return v as Json[];
  }

  /** An index into a list, or undefined when absent. */
  ref(holder: Json, key: string, count: number, what: string, where: string, needed = false): number | undefined {
    const v = holder[key];
    if (v === undefined) {
      if (needed) this.fail(`${where} names no ${what}`);
      return undefined;
    }
    return this.index(v, count, what, where);
  }

  index(v: unknown, count: number, what: string, where: string): number {
    if (typeof v !== 'number' || !Number.isInteger(v) || v < 0)
      this.fail(`${where} names ${what} ${JSON.stringify(v)}, which is not an index`);
    if (v >= count) this.fail(`${where} names ${what} ${v}, but the file has ${count}`);
    return v;
  }

  refs(holder: Json, key: string, count: number, what: string, where: string): number[] {
    const v = holder[key];
    if (v === undefined) return [];
    if (!Array.isArray(v)) this.fail(`${key} of ${where} is not a list`);
    return v.map((e) => this.index(e, count, what, where));
  }

  whole(holder: Json, key: string, where: string, fallback?: number): number {
    const v = holder[key] ?? fallback;
    if (typeof v !== 'number' || !Number.isInteger(v) || v < 0)
      this.fail(`${key} of ${where} is ${JSON.stringify(v) ?? 'missing'}; a whole number from 0 is needed`);
    return v;
  }

  run(): void {
    const { doc } = this;
    const asset = doc.asset;
    if (!isObject(asset)) this.fail('it has no asset block, so it is not glTF 2.0');
    const version = asset.version;
    if (typeof version !== 'string') this.fail('its asset block names no version');
    if (!version.startsWith('2.')) this.fail(`glTF version ${version} is not supported (2.0 is)`);
    const required = doc.extensionsRequired;
    if (required !== undefined) {
      if (!Array.isArray(required)) this.fail('extensionsRequired is not a list');
      const unknown = required.filter((n) => !READABLE_EXTENSIONS.has(String(n)));
      if (unknown.length > 0) this.fail(`it requires ${unknown.join(', ')}, which is not supported yet`);
    }
    this.buffers();
    this.accessors();
    this.materials();
    this.meshes();
    this.nodes();
    this.rest();
  }

  private buffers(): void {
    const buffers = this.list('buffers');
    const lengths = buffers.map((buffer, i) => {
      const where = `buffer ${i}`;
      const size = this.whole(buffer, 'byteLength', where);
      const meshoptFallback = isObject(buffer.extensions) && isObject(buffer.extensions.EXT_meshopt_compression);
      if (buffer.uri === undefined) {
        if (meshoptFallback) return size;
        if (i !== 0 || this.input.binLength === null) this.fail(`${where} has no data`);
        if (this.input.binLength < size)
          this.fail(`${where} says ${size} bytes and the file holds ${this.input.binLength}`);
        return size;
      }
      if (typeof buffer.uri !== 'string') this.fail(`the URI of ${where} is not a text`);
      if (buffer.uri.startsWith('data:')) {
        const got = dataUriLength(buffer.uri);
        if (got < size) this.fail(`${where} says ${size} bytes and its data URI holds ${got}`);
        return size;
      }
      const got = this.input.resourceLength(buffer.uri);
      if (got === null) this.fail(`its buffer "${buffer.uri}" is missing`);
      if (got < size) this.fail(`its buffer "${buffer.uri}" is cut short: ${size} bytes are needed, ${got} are there`);
      return size;
    });
    this.list('bufferViews').forEach((v, i) => {
      const where = `buffer view ${i}`;
      const buffer = this.ref(v, 'buffer', buffers.length, 'buffer', where, true) as number;
      const offset = this.whole(v, 'byteOffset', where, 0);
      const size = this.whole(v, 'byteLength', where);
      if (offset + size > lengths[buffer])
        this.fail(`${where} ends at byte ${offset + size} of buffer ${buffer}, which has ${lengths[buffer]}`);
      if (v.byteStride !== undefined) {
        const stride = this.whole(v, 'byteStride', where);
        if (stride < 4 || stride > 252) this.fail(`byteStride of ${where} is ${stride}; 4 to 252 is allowed`);
      }
      const ext = isObject(v.extensions) ? v.extensions.EXT_meshopt_compression : undefined;
      if (isObject(ext)) {
        const source = this.ref(ext, 'buffer', buffers.length, 'buffer', `${where} (compressed)`, true) as number;
        const end = this.whole(ext, 'byteOffset', where, 0) + this.whole(ext, 'byteLength', where);
        if (end > lengths[source])
          this.fail(`${where} (compressed) ends at byte ${end} of buffer ${source}, which has ${lengths[source]}`);
        const bytes = this.whole(ext, 'count', where) * this.whole(ext, 'byteStride', where);
        if (bytes > size) this.fail(`${where} (compressed) expands to ${bytes} bytes, more than its ${size}`);
      }
    });
  }

  private accessors(): void {
    const views = this.list('bufferViews');
    const fits = (view: Json, offset: number, stride: number, element: number, count: number, where: string) => {
      const need = count === 0 ? 0 : offset + stride * (count - 1) + element;
      const has = view.byteLength as number;
      if (need > has) this.fail(`${where} reads ${need} bytes of a buffer view that has ${has}`);
    };
    this.list('accessors').forEach((json, i) => {
      const where = `accessor ${i}`;
      const component = COMPONENT_BYTES[json.componentType as number];
      if (!component) this.fail(`${where} has the unknown component type ${JSON.stringify(json.componentType)}`);
      const elements = TYPE_COUNT[json.type as string];
      if (!elements) this.fail(`${where} has the unknown type ${JSON.stringify(json.type)}`);
      const count = this.whole(json, 'count', where);
      if (count > LIMITS.accessorCount)
        this.fail(`${where} claims ${count} elements; at most ${LIMITS.accessorCount} are read`);
      const size = component * elements;
      const view = this.ref(json, 'bufferView', views.length, 'buffer view', where);
      if (view !== undefined) {
        const stride = (views[view].byteStride as number | undefined) ?? size;
        if (stride < size) this.fail(`${where} needs ${size} bytes an element, but its buffer view steps ${stride}`);
        const offset = this.whole(json, 'byteOffset', where, 0);
        if (offset % component !== 0) this.fail(`${where} starts at byte ${offset}, not aligned to its components`);
        fits(views[view], offset, stride, size, count, where);
      }
      if (json.sparse !== undefined) {
        if (!isObject(json.sparse)) this.fail(`${where}.sparse is not an object`);
        const n = this.whole(json.sparse, 'count', `${where}.sparse`);
        if (n > count) this.fail(`${where} replaces ${n} sparse elements of ${count}`);
        for (const [key, bytes] of [
          ['indices', 0],
          ['values', size],
        ] as const) {
          const part = json.sparse[key];
          if (!isObject(part)) this.fail(`${where}.sparse has no ${key}`);
          const each = bytes || COMPONENT_BYTES[part.componentType as number];
          if (!each) this.fail(`${where}.sparse.${key} has an unknown component type`);
          const from = this.ref(part, 'bufferView', views.length, 'buffer view', `${where}.sparse.${key}`, true);
          const offset = this.whole(part, 'byteOffset', where, 0);
          fits(views[from as number], offset, each, each, n, `${where}.sparse.${key}`);
        }
      }
    });
  }

  private materials(): void {
    const views = this.list('bufferViews');
    const images = this.list('images');
    images.forEach((image, i) => {
      const where = `image ${i}`;
      if (this.ref(image, 'bufferView', views.length, 'buffer view', where) !== undefined) return;
      if (typeof image.uri !== 'string') this.fail(`${where} has no data`);
      if (image.uri.startsWith('data:')) return;
      if (this.input.resourceLength(image.uri) === null) this.fail(`its image "${image.uri}" is missing`);
    });
    const samplers = this.list('samplers');
    const textures = this.list('textures');
    textures.forEach((texture, i) => {
      const where = `texture ${i}`;
      this.ref(texture, 'sampler', samplers.length, 'sampler', where);
      const ext = isObject(texture.extensions) ? texture.extensions : {};
      const webp = isObject(ext.EXT_texture_webp) ? ext.EXT_texture_webp : null;
      if (webp) this.ref(webp, 'source', images.length, 'image', where, true);
      const basis = isObject(ext.KHR_texture_basisu) ? ext.KHR_texture_basisu : null;
      if (basis) this.ref(basis, 'source', images.length, 'image', where, true);
      this.ref(texture, 'source', images.length, 'image', where);
    });
    const textureRefs = (holder: unknown, where: string): void => {
      if (!isObject(holder)) return;
      for (const [key, value] of Object.entries(holder)) {
        if (!isObject(value)) continue;
        if (/[tT]exture$/.test(key)) {
          this.ref(value, 'index', textures.length, 'texture', where, true);
          if (value.texCoord !== undefined) this.whole(value, 'texCoord', where);
        } else if (key !== 'extras') textureRefs(value, where);
      }
    };
    this.list('materials').forEach((json, i) => {
      const where = `material ${i}${typeof json.name === 'string' && json.name ? ` "${json.name}"` : ''}`;
      textureRefs(json, where);
      if (json.alphaMode !== undefined && !['OPAQUE', 'MASK', 'BLEND'].includes(json.alphaMode as string))
        this.fail(`${where} has the unknown alpha mode ${JSON.stringify(json.alphaMode)}`);
    });
  }

  private meshes(): void {
    const accessors = this.list('accessors');
    const materials = this.list('materials');
    const views = this.list('bufferViews').length;
    this.list('meshes').forEach((json, i) => {
      const primitives = this.list('primitives', json, `mesh ${i}: `);
      if (primitives.length === 0) this.fail(`mesh ${i} has no primitives`);
      primitives.forEach((primitive, j) => {
        const where = `mesh ${i}, primitive ${j}`;
        if (!isObject(primitive.attributes)) this.fail(`${where} has no attributes`);
        let count = -1;
        const attributes = (set: Json, kind: string) => {
          for (const [name, v] of Object.entries(set)) {
            const json = accessors[this.index(v, accessors.length, 'accessor', `${name} of ${where}${kind}`)];
            const allowed = ATTRIBUTE_TYPES.find(([re]) => re.test(name))?.[1];
            if (allowed && !allowed.includes(json.type as string) && kind === '')
              this.fail(`${name} of ${where} is ${json.type as string}; ${allowed.join(' or ')} is needed`);
            if (count < 0) count = json.count as number;
            else if (json.count !== count)
              this.fail(`${name} of ${where}${kind} has ${json.count as number} elements, others have ${count}`);
          }
        };
        attributes(primitive.attributes, '');
        if (primitive.attributes.POSITION === undefined) this.fail(`${where} has no positions`);
        this.list('targets', primitive, `${where}: `).forEach((json, k) => {
          attributes(json, ` (morph target ${k})`);
        });
        const indices = this.ref(primitive, 'indices', accessors.length, 'accessor', where);
        if (indices !== undefined) {
          const json = accessors[indices];
          if (json.type !== 'SCALAR' || ![5121, 5123, 5125].includes(json.componentType as number))
            this.fail(`the indices of ${where} are not unsigned whole numbers`);
        }
        const draco = isObject(primitive.extensions) ? primitive.extensions.KHR_draco_mesh_compression : undefined;
        if (isObject(draco)) this.ref(draco, 'bufferView', views, 'buffer view', `${where} (compressed)`, true);
        this.ref(primitive, 'material', materials.length, 'material', where);
        if (primitive.mode !== undefined && (this.whole(primitive, 'mode', where) as number) > 6)
          this.fail(`${where} has the unknown mode ${JSON.stringify(primitive.mode)}`);
      });
    });
  }

  private nodes(): void {
    const nodes = this.list('nodes');
    const meshes = this.list('meshes');
    const skins = this.list('skins');
    const parent = new Int32Array(nodes.length).fill(-1);
    const children = nodes.map((node, i) => {
      const where = `node ${i}`;
      this.ref(node, 'mesh', meshes.length, 'mesh', where);
      this.ref(node, 'skin', skins.length, 'skin', where);
      for (const [key, size] of [
        ['matrix', 16],
        ['translation', 3],
        ['rotation', 4],
        ['scale', 3],
      ] as const) {
        const v = node[key];
        if (v === undefined) continue;
        if (!Array.isArray(v) || v.length !== size || !v.every((x) => typeof x === 'number' && Number.isFinite(x)))
          this.fail(`the ${key} of ${where} is not ${size} finite numbers`);
      }
      const list = this.refs(node, 'children', nodes.length, 'node', where);
      for (const c of list) {
        if (c === i) this.fail(`${where} is its own child`);
        if (parent[c] === i) this.fail(`${where} names node ${c} twice among its children`);
        if (parent[c] >= 0) this.fail(`node ${c} has two parents (nodes ${parent[c]} and ${i})`);
        parent[c] = i;
      }
      return list;
    });
    const depth = new Int32Array(nodes.length);
    let reached = 0;
    const queue = nodes.map((_, i) => i).filter((i) => parent[i] < 0);
    while (queue.length > 0) {
      const i = queue.pop() as number;
      reached++;
      for (const c of children[i]) {
        depth[c] = depth[i] + 1;
        if (depth[c] > LIMITS.nodeDepth) this.fail(`its nodes are nested deeper than ${LIMITS.nodeDepth}`);
        queue.push(c);
      }
    }
    if (reached < nodes.length) {
      let start = parent.findIndex((p, i) => p >= 0 && depth[i] === 0);
      for (let k = 0; k < nodes.length && start >= 0; k++) start = parent[start];
      this.fail(`its nodes form a circle (node ${Math.max(0, start)} is its own ancestor)`);
    }
    const scenes = this.list('scenes');
    scenes.forEach((scene, i) => {
      this.refs(scene, 'nodes', nodes.length, 'node', `scene ${i}`);
    });
    this.ref(this.doc, 'scene', scenes.length, 'scene', 'the file');
  }

  private rest(): void {
    const nodes = this.list('nodes').length;
    const accessors = this.list('accessors').length;
    this.list('skins').forEach((json, i) => {
      this.refs(json, 'joints', nodes, 'node', `skin ${i}`);
      this.ref(json, 'inverseBindMatrices', accessors, 'accessor', `skin ${i}`);
      this.ref(json, 'skeleton', nodes, 'node', `skin ${i}`);
    });
    this.list('animations').forEach((json, i) => {
      const where = `animation ${i}`;
      const samplers = this.list('samplers', json, `${where}: `);
      samplers.forEach((sampler) => {
        this.ref(sampler, 'input', accessors, 'accessor', where, true);
        this.ref(sampler, 'output', accessors, 'accessor', where, true);
      });
      this.list('channels', json, `${where}: `).forEach((json) => {
        this.ref(json, 'sampler', samplers.length, 'sampler', where, true);
        if (isObject(json.target)) this.ref(json.target, 'node', nodes, 'node', where);
      });
    });
  }
}

function isObject(v: unknown): v is Json {
  return typeof v === 'object' && v !== null && !Array.isArray(v);
}

function dataUriLength(uri: string): number {
  const comma = uri.indexOf(',');
  if (comma < 0) return 0;
  const body = uri.length - comma - 1;
  if (!uri.slice(0, comma).endsWith(';base64')) return body;
  const pad = uri.endsWith('==') ? 2 : uri.endsWith('=') ? 1 : 0;
  return Math.floor((body * 3) / 4) - pad;
}

/** @throws InputError with one sentence on the first thing that is wrong */
export function checkDocument(input: CheckInput): void {
  new Checker(input).run();
}
