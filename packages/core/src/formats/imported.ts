import { Document, type Material, type Texture } from '@gltf-transform/core';

/** What a map holds; `packed` pictures are taken apart by channel before they get here. */
const MAP_KINDS = [
  'baseColor',
  'opacity',
  'metallic',
  'roughness',
  'gloss',
  'normal',
  'bump',
  'occlusion',
  'emissive',
] as const;
export type MapKind = (typeof MAP_KINDS)[number];

/** A picture that a material of a simple format names. */
export interface ImportedMap {
  /** As written in the file. */
  file: string;
  offset?: [number, number];
  scale?: [number, number];
  clamp?: boolean;
}

/** A material of a format other than glTF; factors are linear. */
export interface ImportedMaterial {
  name: string;
  baseColor: [number, number, number, number];
  metallic: number;
  roughness: number;
  emissive: [number, number, number];
  maps: Partial<Record<MapKind, ImportedMap>>;
}

/** Triangles of one object that use one material. */
export interface ImportedPart {
  name: string;
  /** Index into the materials, or null. */
  material: number | null;
  positions: Float32Array;
  normals: Float32Array | null;
  /** V down, as in glTF. */
  uvs: Float32Array | null;
  /** Linear R G B A. */
  colors: Float32Array | null;
  indices: Uint32Array;
}

/** What a reader of a simple format makes of a file. */
export interface Imported {
  parts: ImportedPart[];
  materials: ImportedMaterial[];
  /** What was left out, and what was assumed. */
  notes: string[];
}

/** How the numbers of a file that does not say it are to be taken. */
export interface Frame {
  /** Metres of one unit. */
  unit: number;
  up: 'y' | 'z';
}

/** What is taken where nobody chose: the habit of each format. */
export const DEFAULT_FRAME: Record<'obj' | 'ply' | 'stl', Frame> = {
  obj: { unit: 1, up: 'y' },
  ply: { unit: 1, up: 'y' },
  stl: { unit: 0.001, up: 'z' },
};

/**
 * A glTF document of what was read: one node and mesh for each object, below a node that carries unit and up axis. Maps are
 * not attached; the caller has their files.
 */
export function importedDocument(read: Imported, frame: Frame): { document: Document; materials: Material[] } {
  const document = new Document();
  const buffer = document.createBuffer();
  const root = document.createNode('root').setScale([frame.unit, frame.unit, frame.unit]);
  // A quarter turn about X takes Z up to Y up.
  if (frame.up === 'z') root.setRotation([-Math.SQRT1_2, 0, 0, Math.SQRT1_2]);
  document.createScene().addChild(root);
  const materials = read.materials.map((m) =>
    document
      .createMaterial(m.name)
      .setBaseColorFactor(m.baseColor)
      .setMetallicFactor(m.metallic)
      .setRoughnessFactor(m.roughness)
      .setEmissiveFactor(m.emissive)
      .setAlphaMode(m.baseColor[3] < 1 || m.maps.opacity ? 'BLEND' : 'OPAQUE'),
  );
  const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', values: Float32Array | Uint32Array) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(values as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const meshes = new Map<string, ReturnType<Document['createMesh']>>();
  for (const p of read.parts) {
    let mesh = meshes.get(p.name);
    if (!mesh) {
      mesh = document.createMesh(p.name);
      meshes.set(p.name, mesh);
      root.addChild(document.createNode(p.name).setMesh(mesh));
    }
    const small = p.positions.length / 3 <= 65535;
    const primitive = document
      .createPrimitive()
      .setMaterial(p.material === null ? null : materials[p.material])
      .setAttribute('POSITION', accessor('VEC3', p.positions))
      .setIndices(accessor('SCALAR', small ? (Uint16Array.from(p.indices) as never) : p.indices));
    if (p.normals) primitive.setAttribute('NORMAL', accessor('VEC3', p.normals));
    if (p.uvs) primitive.setAttribute('TEXCOORD_0', accessor('VEC2', p.uvs));
    if (p.colors) primitive.setAttribute('COLOR_0', accessor('VEC4', p.colors));
    mesh.addPrimitive(primitive);
  }
  return { document, materials };
}

/** Gives a material a map of glTF's kinds. @param texture already composed: metallic in B, roughness in G */
export function attachMap(
  material: Material,
  kind: 'baseColor' | 'metallicRoughness' | 'normal' | 'occlusion' | 'emissive',
  texture: Texture,
): void {
  if (kind === 'baseColor') material.setBaseColorTexture(texture);
  else if (kind === 'metallicRoughness') material.setMetallicRoughnessTexture(texture);
  else if (kind === 'normal') material.setNormalTexture(texture);
  else if (kind === 'occlusion') material.setOcclusionTexture(texture);
  else {
    material.setEmissiveTexture(texture);
    if (material.getEmissiveFactor().every((v) => v === 0)) material.setEmissiveFactor([1, 1, 1]);
  }
}
