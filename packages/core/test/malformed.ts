/** Ways to spoil a sound document, each with what the sentence must say. Shared by the tests of the core and of the command line. */

type Json = Record<string, never> & Record<string, unknown>;
type List = Record<string, unknown>[];

export interface Spoiled {
  name: string;
  spoil: (json: Json) => void;
  says: RegExp;
}

const first = (json: Json, key: string) => (json[key] as unknown as List)[0];
const primitive = (json: Json) => (first(json, 'meshes').primitives as List)[0] as Record<string, never>;
const attributes = (json: Json) => primitive(json).attributes as Record<string, number>;

export const SPOILED: Spoiled[] = [
  { name: 'no-asset', spoil: (j) => delete j.asset, says: /no asset block/ },
  {
    name: 'version-3',
    spoil: (j) => Object.assign(j.asset as object, { version: '3.1' }),
    says: /version 3\.1 is not supported/,
  },
  {
    name: 'unknown-extension',
    spoil: (j) => Object.assign(j, { extensionsRequired: ['ACME_shiny'] }),
    says: /requires ACME_shiny/,
  },
  { name: 'nodes-not-list', spoil: (j) => Object.assign(j, { nodes: {} }), says: /nodes is not a list/ },
  {
    name: 'mesh-missing',
    spoil: (j) => Object.assign(first(j, 'nodes'), { mesh: 7 }),
    says: /names mesh 7, but the file has 1/,
  },
  {
    name: 'mesh-negative',
    spoil: (j) => Object.assign(first(j, 'nodes'), { mesh: -1 }),
    says: /names mesh -1, which is not an index/,
  },
  { name: 'mesh-text', spoil: (j) => Object.assign(first(j, 'nodes'), { mesh: 'sign' }), says: /names mesh "sign"/ },
  { name: 'own-child', spoil: (j) => Object.assign(first(j, 'nodes'), { children: [0] }), says: /its own child/ },
  {
    name: 'children-twice',
    // Each node names the next one twice: two to the power of forty ways down.
    spoil: (j) => {
      const nodes = j.nodes as unknown as List;
      const from = nodes.length;
      for (let i = 0; i < 40; i++) nodes.push({ children: i < 39 ? [from + i + 1, from + i + 1] : [] });
    },
    says: /names node \d+ twice among its children/,
  },
  {
    name: 'matrix-short',
    spoil: (j) => Object.assign(first(j, 'nodes'), { matrix: [1, 2, 3] }),
    says: /matrix of node 0 is not 16 finite numbers/,
  },
  {
    name: 'scene-node',
    spoil: (j) => Object.assign(first(j, 'scenes'), { nodes: [99] }),
    says: /scene 0 names node 99/,
  },
  {
    name: 'no-primitives',
    spoil: (j) => Object.assign(first(j, 'meshes'), { primitives: [] }),
    says: /has no primitives/,
  },
  { name: 'no-positions', spoil: (j) => delete attributes(j).POSITION, says: /has no positions/ },
  {
    name: 'positions-vec2',
    spoil: (j) => Object.assign(attributes(j), { POSITION: attributes(j).TEXCOORD_0 }),
    says: /POSITION of mesh 0, primitive 0 is VEC2/,
  },
  {
    name: 'indices-float',
    spoil: (j) => Object.assign(primitive(j), { indices: attributes(j).POSITION }),
    says: /not unsigned whole numbers/,
  },
  { name: 'mode-9', spoil: (j) => Object.assign(primitive(j), { mode: 9 }), says: /unknown mode 9/ },
  { name: 'material-missing', spoil: (j) => Object.assign(primitive(j), { material: 3 }), says: /names material 3/ },
  {
    name: 'accessor-type',
    spoil: (j) => Object.assign(first(j, 'accessors'), { type: 'VEC5' }),
    says: /unknown type "VEC5"/,
  },
  {
    name: 'component-type',
    spoil: (j) => Object.assign(first(j, 'accessors'), { componentType: 42 }),
    says: /unknown component type 42/,
  },
  {
    name: 'absurd-count',
    spoil: (j) => Object.assign(first(j, 'accessors'), { count: 4_000_000_000 }),
    says: /claims 4000000000 elements/,
  },
  {
    name: 'count-too-long',
    spoil: (j) => Object.assign(first(j, 'accessors'), { count: 5 }),
    says: /reads 60 bytes of a buffer view that has 48/,
  },
  {
    name: 'unaligned',
    spoil: (j) => Object.assign(first(j, 'accessors'), { byteOffset: 2, count: 3 }),
    says: /not aligned/,
  },
  {
    name: 'view-outside',
    spoil: (j) => Object.assign(first(j, 'bufferViews'), { byteLength: 1e6 }),
    says: /buffer view 0 ends at byte/,
  },
  { name: 'view-buffer', spoil: (j) => Object.assign(first(j, 'bufferViews'), { buffer: 1 }), says: /names buffer 1/ },
  {
    name: 'buffer-length',
    spoil: (j) => Object.assign(first(j, 'buffers'), { byteLength: 1e7 }),
    says: /buffer 0 says 10000000 bytes/,
  },
  {
    name: 'buffer-elsewhere',
    spoil: (j) => Object.assign(first(j, 'buffers'), { uri: 'gone.bin' }),
    says: /buffer "gone\.bin" is missing/,
  },
  {
    name: 'image-elsewhere',
    spoil: (j) => Object.assign(first(j, 'images'), { uri: '../../secret.png', bufferView: undefined }),
    says: /outside the folder|is missing/,
  },
  { name: 'image-nothing', spoil: (j) => delete first(j, 'images').bufferView, says: /image 0 has no data/ },
  { name: 'texture-source', spoil: (j) => Object.assign(first(j, 'textures'), { source: 4 }), says: /names image 4/ },
  {
    name: 'alpha-mode',
    spoil: (j) => Object.assign(first(j, 'materials'), { alphaMode: 'FADE' }),
    says: /unknown alpha mode "FADE"/,
  },
  {
    name: 'base-texture',
    spoil: (j) =>
      Object.assign((first(j, 'materials').pbrMetallicRoughness as Json).baseColorTexture as object, { index: 12 }),
    says: /names texture 12/,
  },
];
