import type { Texture } from '@gltf-transform/core';
import { addTextureBytes, NO_TEXTURE_BYTES, type TextureBytes, textureBytes } from '../image/texture-memory.ts';
import { byteColumn, weldVertices } from '../mesh/weld.ts';
import { partDrawCalls } from '../plan/drawn-parts.ts';
import { lookKey } from '../scene/material.ts';
import type { Model, Part } from '../scene/model.ts';

/** What is known of an image once it has been decoded. */
export interface ImageFacts {
  /** Hash of decoded pixels with size and bits: equal for duplicates. */
  pixelKey: string;
  width: number;
  height: number;
  bits: 8 | 16;
}

/** Facts by image key (hash of stored bytes). */
export type ImageTable = ReadonlyMap<string, ImageFacts>;

export interface FileFigures {
  drawCalls: number;
  slots: number;
  triangles: number;
  gpuVertices: number;
  positions: number;
  instances: number;
  materials: number;
  textures: number;
  textureBytes: TextureBytes;
}

/** The `totals` of the command line's contract. */
export interface Totals {
  files: number;
  failed: number;
  instances: number;
  drawCalls: number;
  slots: number;
  materials: number;
  distinctMaterials: number;
  triangles: number;
  positions: number;
  gpuVertices: number;
  textures: number;
  distinctTextures: number;
  textureBytes: TextureBytes;
  distinctTextureBytes: TextureBytes;
}

/** Slots of a model that something draws with. */
const usedSlots = ({ parts }: Model): Set<number> =>
  new Set(parts.flatMap((part) => (part.instances.length > 0 ? [part.slot] : [])));

/** Textures of a document that some material reads. */
export function usedTextures(model: Model): Texture[] {
  return model.document
    .getRoot()
    .listTextures()
    .filter((texture) => texture.listParents().some((parent) => parent.propertyType !== 'Root'));
}

/**
 * Vertices that the GPU will hold for a part: distinct tuples of all its attributes among the vertices that are drawn,
 * compared by their stored bits ("Counts and sizes", GPU vertices).
 */
export function gpuVertices(part: Part): number {
  const semantics = part.primitive.listSemantics();
  const vertexCount = part.positions.length / 3;
  const stored = part.primitive.getIndices()?.getArray() ?? null;
  const used = new Uint8Array(vertexCount);
  if (stored) for (let i = 0; i < stored.length; i++) used[stored[i]] = 1;
  else used.fill(1);
  const columns = semantics.flatMap((semantic) => {
    const accessor = part.primitive.getAttribute(semantic);
    const array = accessor?.getArray();
    return accessor && array ? [byteColumn(array, accessor.getElementSize())] : [];
  });
  columns.push(byteColumn(used, 1));
  const { first } = weldVertices(columns, vertexCount);
  let count = 0;
  for (let v = 0; v < vertexCount; v++) if (used[v] && first[v] === v) count++;
  return count;
}

/** Distinct points of each mesh, summed: what a modelling program would count. */
function pointCount(model: Model): number {
  let total = 0;
  const byMesh = new Map<unknown, Float32Array[]>();
  for (const part of model.parts) byMesh.set(part.mesh, [...(byMesh.get(part.mesh) ?? []), part.positions]);
  for (const lists of byMesh.values()) {
    const unique = [...new Set(lists)];
    const all = new Float32Array(unique.reduce((sum, l) => sum + l.length, 0));
    let at = 0;
    for (const l of unique) {
      all.set(l, at);
      at += l.length;
    }
    for (let i = 0; i < all.length; i++) if (all[i] === 0) all[i] = 0; // −0 and 0 are one place
    total += weldVertices([byteColumn(all, 3)], all.length / 3).count;
  }
  return total;
}

/**
 * Figures of one file. Triangles are those drawn: every instance counts; vertices and points are those stored.
 * @param passes how often the renderer draws the scene
 */
export function fileFigures(
  model: Model,
  images: ImageTable,
  imageKey: (texture: Texture) => string,
  passes = 1,
): FileFigures {
  let drawCalls = 0;
  let triangles = 0;
  let vertices = 0;
  const instances = new Set<unknown>();
  for (const part of model.parts) {
    drawCalls += partDrawCalls(part) * passes;
    vertices += gpuVertices(part);
    for (const i of part.instances) {
      triangles += (part.indices.length / 3) * i.copies;
      instances.add(i.node);
    }
  }
  const textures = usedTextures(model);
  let bytes: TextureBytes = { ...NO_TEXTURE_BYTES };
  for (const texture of textures) {
    const facts = images.get(imageKey(texture));
    if (facts) bytes = addTextureBytes(bytes, textureBytes(facts.width, facts.height));
  }
  const used = usedSlots(model);
  return {
    drawCalls,
    slots: used.size,
    triangles,
    gpuVertices: vertices,
    positions: pointCount(model),
    instances: instances.size,
    materials: used.size,
    textures: textures.length,
    textureBytes: bytes,
  };
}

/**
 * A texture of a file that stands beside it, by place and contents, so that files that share it have one; null for one inside its file.
 * @param path path of the model
 */
function sharedFile(path: string, texture: Texture, image: string): string | null {
  const uri = texture.getURI();
  if (uri === '') return null;
  const folder = path.includes('/') ? path.slice(0, path.lastIndexOf('/') + 1) : '';
  return `${folder}${uri} ${image}`;
}

/** Textures of all files; one that several files share counts once. */
function countTextures(models: readonly Model[], images: ImageTable, imageKey: (texture: Texture) => string) {
  const shared = new Set<string>();
  let count = 0;
  let bytes: TextureBytes = { ...NO_TEXTURE_BYTES };
  for (const model of models)
    for (const texture of usedTextures(model)) {
      const image = imageKey(texture);
      const key = sharedFile(model.path, texture, image);
      if (key !== null && shared.has(key)) continue;
      if (key !== null) shared.add(key);
      count++;
      const facts = images.get(image);
      if (facts) bytes = addTextureBytes(bytes, textureBytes(facts.width, facts.height));
    }
  return { count, bytes };
}

/** Sums figures of files; distinct… counts duplicates once, by decoded pixels and by equal parameters. */
export function totals(
  files: { model: Model; figures: FileFigures }[],
  failed: number,
  images: ImageTable,
  imageKey: (texture: Texture) => string,
): Totals {
  const sum = (f: (x: FileFigures) => number) => files.reduce((sum, x) => sum + f(x.figures), 0);
  const pixelKey = (image: string) => images.get(image)?.pixelKey ?? image;
  const looks = new Set<string>();
  const distinct = new Map<string, TextureBytes>();
  const stored = countTextures(
    files.map((file) => file.model),
    images,
    imageKey,
  );
  for (const { model } of files) {
    for (const slot of usedSlots(model)) looks.add(lookKey(model.slots[slot].look, pixelKey));
    for (const { key, facts } of texturesByUse(model, images, imageKey))
      distinct.set(key, textureBytes(facts.width, facts.height));
  }
  return {
    files: files.length + failed,
    failed,
    instances: sum((fileFigures) => fileFigures.instances),
    drawCalls: sum((fileFigures) => fileFigures.drawCalls),
    slots: sum((fileFigures) => fileFigures.slots),
    materials: sum((fileFigures) => fileFigures.materials),
    distinctMaterials: looks.size,
    triangles: sum((fileFigures) => fileFigures.triangles),
    positions: sum((fileFigures) => fileFigures.positions),
    gpuVertices: sum((fileFigures) => fileFigures.gpuVertices),
    textures: stored.count,
    distinctTextures: distinct.size,
    textureBytes: stored.bytes,
    distinctTextureBytes: [...distinct.values()].reduce(addTextureBytes, { ...NO_TEXTURE_BYTES }),
  };
}

/** Textures of a model keyed by pixels and colour space: the same pixels read as colour and as data are two textures. */
export function texturesByUse(model: Model, images: ImageTable, imageKey: (texture: Texture) => string) {
  return usedTextures(model).flatMap((texture) => {
    const facts = images.get(imageKey(texture));
    if (!facts) return [];
    const colour = texture
      .getGraph()
      .listParentEdges(texture)
      .some((edge) => /^(baseColor|emissive|diffuse|sheenColor|specularColor)Texture$/.test(edge.getName()));
    return [
      {
        key: `${facts.pixelKey}:${colour ? 'srgb' : 'linear'}`,
        facts,
        colour,
        name: texture.getName() || texture.getURI() || 'unnamed',
      },
    ];
  });
}
