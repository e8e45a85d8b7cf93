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
  const materials = read.materials.map((material) =>
    document
      .createMaterial(material.name)
      .setBaseColorFactor(material.baseColor)
      .setMetallicFactor(material.metallic)
      .setRoughnessFactor(material.roughness)
      .setEmissiveFactor(material.emissive)
      .setAlphaMode(material.baseColor[3] < 1 || material.maps.opacity ? 'BLEND' : 'OPAQUE'),
  );
  const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', values: Float32Array | Uint32Array) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(values as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const meshes = new Map<string, ReturnType<Document['createMesh']>>();
  for (const part of read.parts) {
    let mesh = meshes.get(part.name);
    if (!mesh) {
      mesh = document.createMesh(part.name);
      meshes.set(part.name, mesh);
      root.addChild(document.createNode(part.name).setMesh(mesh));
    }
    const small = part.positions.length / 3 <= 65535;
    const primitive = document
      .createPrimitive()
      .setMaterial(part.material === null ? null : materials[part.material])
      .setAttribute('POSITION', accessor('VEC3', part.positions))
      .setIndices(accessor('SCALAR', small ? (Uint16Array.from(part.indices) as never) : part.indices));
    if (part.normals) primitive.setAttribute('NORMAL', accessor('VEC3', part.normals));
    if (part.uvs) primitive.setAttribute('TEXCOORD_0', accessor('VEC2', part.uvs));
    if (part.colors) primitive.setAttribute('COLOR_0', accessor('VEC4', part.colors));
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
