import { Document, type Texture } from '@gltf-transform/core';
import { MergeDecisions } from '../src/decisions/decisions.ts';
import { RouteList, routeSlots } from '../src/decisions/routes.ts';
import { APART } from '../src/decisions/rules.ts';
import { evenSheets } from '../src/decisions/sheets.ts';
import { type Model, readModel } from '../src/scene/model.ts';

/** Small models for the tests, straight from arrays. */
export interface PartSpec {
  positions: number[];
  normals?: number[];
  uvs?: number[];
  uvs1?: number[];
  colors?: number[];
  tangents?: number[];
  indices?: number[];
  slot: string;
  translation?: [number, number, number];
  scale?: [number, number, number];
}

export interface SlotSpec {
  name: string;
  baseColor?: string;
  normal?: string;
  occlusion?: { image: string; uvSet: number };
  alphaMode?: 'OPAQUE' | 'MASK' | 'BLEND';
  doubleSided?: boolean;
}

/** Pictures as routes see them: each its own, none flat. */
export const PICTURES = {
  key: (image: string) => image,
  flat: () => false,
  size: () => ({ width: 64, height: 64 }),
};

export function imageKeyOfName(texture: Texture): string {
  return texture.getName();
}

export function buildModel(slots: SlotSpec[], parts: PartSpec[], path = 'test.glb'): Model {
  const document = new Document();
  const buffer = document.createBuffer();
  const textures = new Map<string, Texture>();
  const texture = (name: string) => {
    const texture = textures.get(name) ?? document.createTexture(name);
    textures.set(name, texture);
    return texture;
  };
  const scene = document.createScene();
  const materials = new Map(
    slots.map((slot) => {
      const material = document
        .createMaterial(slot.name)
        .setAlphaMode(slot.alphaMode ?? 'OPAQUE')
        .setDoubleSided(slot.doubleSided ?? false);
      if (slot.baseColor) material.setBaseColorTexture(texture(slot.baseColor));
      if (slot.normal) material.setNormalTexture(texture(slot.normal));
      if (slot.occlusion) {
        material.setOcclusionTexture(texture(slot.occlusion.image));
        material.getOcclusionTextureInfo()?.setTexCoord(slot.occlusion.uvSet);
      }
      return [slot.name, material] as const;
    }),
  );
  parts.forEach((part, i) => {
    const accessor = (type: 'VEC2' | 'VEC3' | 'VEC4', values: number[]) =>
      document.createAccessor().setType(type).setArray(Float32Array.from(values)).setBuffer(buffer);
    const count = part.positions.length / 3;
    const primitive = document
      .createPrimitive()
      .setMaterial(materials.get(part.slot) ?? null)
      .setAttribute('POSITION', accessor('VEC3', part.positions))
      .setIndices(
        document
          .createAccessor()
          .setType('SCALAR')
          .setArray(Uint32Array.from(part.indices ?? Array.from({ length: count }, (_, k) => k)))
          .setBuffer(buffer),
      );
    if (part.normals) primitive.setAttribute('NORMAL', accessor('VEC3', part.normals));
    if (part.uvs) primitive.setAttribute('TEXCOORD_0', accessor('VEC2', part.uvs));
    if (part.uvs1) primitive.setAttribute('TEXCOORD_1', accessor('VEC2', part.uvs1));
    if (part.colors) primitive.setAttribute('COLOR_0', accessor('VEC4', part.colors));
    if (part.tangents) primitive.setAttribute('TANGENT', accessor('VEC4', part.tangents));
    const node = document.createNode(`node ${i}`).setMesh(document.createMesh(`part ${i}`).addPrimitive(primitive));
    if (part.translation) node.setTranslation(part.translation);
    if (part.scale) node.setScale(part.scale);
    scene.addChild(node);
  });
  return readModel(path, document, imageKeyOfName);
}

/** A rectangle facing +Z: x, y, w, h in metres; u, v, du, dv of its upper left corner and extent. */
export function quad(x: number, y: number, w: number, h: number, u: number, v: number, du: number, dv: number) {
  return {
    positions: [x, y, 0, x + w, y, 0, x + w, y + h, 0, x, y + h, 0],
    normals: [0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1],
    uvs: [u, v + dv, u + du, v + dv, u + du, v, u, v],
    indices: [0, 1, 2, 0, 2, 3],
  };
}

/**
 * Decisions in the short form of the command line; packed quickly, where a test is not about how tightly, and everything merged, where it is not
 * about what is gained.
 */
export interface Plan extends Partial<Omit<MergeDecisions, 'sheets'>> {
  name?: string;
  sheets?: number;
  size?: number;
  margin?: number;
  keepApart?: string[];
}

export function decide({ name = 'sheet', sheets = 1, size = 2048, margin = 12, keepApart = [], ...rest }: Plan = {}) {
  return MergeDecisions.parse({
    sheets: evenSheets(sheets, name, size, margin),
    effort: 1,
    mergeAll: true,
    ...rest,
    routes: routeSlots(RouteList.parse(rest.routes ?? []), keepApart, APART),
  });
}

export const sizesOf =
  (width: number, height = width, flat = false) =>
  () => ({ width, height, flat });

/** Repeatable numbers in 0 … 1. */
export function numbers(seed: number): () => number {
  let s = seed | 1;
  return () => {
    s ^= s << 13;
    s ^= s >>> 17;
    s ^= s << 5;
    return (s >>> 0) / 4294967296;
  };
}
