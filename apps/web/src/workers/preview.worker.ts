import { type Document, type Material, type Texture, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { copyToDocument } from '@gltf-transform/functions';
import type { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { applyFaceEdits, type FaceChanges, readsColours } from '@wembrel/core/faces/apply-faces';
import { groupFaces, partsForGroups } from '@wembrel/core/faces/group-faces';
import { swatchesOf } from '@wembrel/core/faces/take-swatches';
import type { Raster } from '@wembrel/core/image/raster';
import { paintedFaces } from '@wembrel/core/palette/faces';
import type { Painted, SwatchOrder } from '@wembrel/core/palette/palette';
import { type Model, readModel } from '@wembrel/core/scene/model';

/** A model with edits of its faces, to be looked at before the server has read it so. */
export interface PreviewRequest {
  id: number;
  path: string;
  /** Address of the model before any edit. */
  url: string;
  faces: FaceDecisions;
  /** Slots of other models by name, with the address of a model that has each. */
  elsewhere: [name: string, url: string][];
}

/** What faces of groups show, gathered into so many colours over all their models. */
export interface GatherRequest {
  id: number;
  gather: {
    models: { path: string; url: string }[];
    faces: FaceDecisions;
    groups: string[];
    most: number;
    /** Order of the colours. */
    by: SwatchOrder;
    name: string;
  };
}

export type GatherAnswer =
  | { id: number; type: 'gathered'; found: ReturnType<typeof swatchesOf> }
  | { id: number; type: 'failed'; message: string };

export type PreviewAnswer =
  | { id: number; type: 'done'; glb: Uint8Array<ArrayBuffer>; changes: FaceChanges; took: number }
  | { id: number; type: 'failed'; message: string };

const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
const files = new Map<string, Promise<Uint8Array>>();

function bytesOf(url: string): Promise<Uint8Array> {
  const known = files.get(url);
  if (known) return known;
  const read = fetch(url).then(async (response) => {
    if (!response.ok) throw new Error(`the server answered ${response.status}`);
    return new Uint8Array(await response.arrayBuffer());
  });
  // The last few are enough: one model is worked on at a time.
  if (files.size > 6) files.delete(files.keys().next().value as string);
  files.set(url, read);
  return read;
}

const documentOf = async (url: string): Promise<Document> => io.readBinary(await bytesOf(url));

/** Slots that edits in force name and the model does not have. */
function missingSlots(model: Model, { edits }: FaceDecisions): Set<string> {
  const own = new Set(model.slots.map((slot) => slot.name));
  const named = edits.flatMap((edit) => {
    if (edit.off || edit.kind === 'swatch' || edit.kind === 'swatches') return [];
    if (edit.kind === 'cells') return edit.mix.map((variant) => variant.slot);
    return 'slot' in edit && edit.slot !== null ? [edit.slot] : [];
  });
  return new Set(named.filter((name) => !own.has(name)));
}

/** A model whose pictures are known by numbers. */
function modelOf(path: string, document: Document): { model: Model; keys: Map<Texture, string> } {
  const keys = new Map<Texture, string>();
  const model = readModel(path, document, (texture) => {
    const known = keys.get(texture) ?? String(keys.size);
    keys.set(texture, known);
    return known;
  });
  return { model, keys };
}

/** Decoded pictures, as they are stored. */
async function rastersOf(keys: ReadonlyMap<Texture, string>): Promise<Map<string, Raster>> {
  const out = new Map<string, Raster>();
  for (const [texture, key] of keys) {
    const image = texture.getImage();
    if (!image) continue;
    const blob = new Blob([image as Uint8Array<ArrayBuffer>], { type: texture.getMimeType() });
    const bitmap = await createImageBitmap(blob, { colorSpaceConversion: 'none', premultiplyAlpha: 'none' });
    const { width, height } = bitmap;
    const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true });
    if (!context) continue;
    context.drawImage(bitmap, 0, 0);
    const { data } = context.getImageData(0, 0, width, height);
    out.set(key, { width, height, bits: 8, data: new Uint8Array(data.buffer) });
  }
  return out;
}

async function gather({ id, gather: g }: GatherRequest): Promise<void> {
  const wanted = new Set(g.groups);
  const paints: Painted[] = [];
  for (const { path, url } of g.models) {
    const { model, keys } = modelOf(path, await documentOf(url));
    const rasters = await rastersOf(keys);
    const { ofPart } = groupFaces(partsForGroups(model), g.faces.groups);
    for (const { part, faces } of paintedFaces(model, (key) => rasters.get(key)))
      faces.forEach((face, f) => {
        const at = ofPart[part.id][f];
        if (face && at >= 0 && wanted.has(g.faces.groups[at].id)) paints.push(face);
      });
  }
  self.postMessage({ id, type: 'gathered', found: swatchesOf(paints, g.most, g.name, g.by) } satisfies GatherAnswer);
}

async function preview(request: PreviewRequest): Promise<void> {
  const begun = performance.now();
  const document = await documentOf(request.url);
  const { model, keys } = modelOf(request.path, document);
  const rasters = readsColours(request.faces) ? await rastersOf(keys) : null;
  const wanted = missingSlots(model, request.faces);
  const there = new Map<string, { document: Document; material: Material }>();
  for (const [name, url] of request.elsewhere) {
    if (!wanted.has(name) || there.has(name)) continue;
    const other = await documentOf(url);
    const material = other
      .getRoot()
      .listMaterials()
      .find((material) => material.getName() === name);
    if (material) there.set(name, { document: other, material });
  }
  const changes = applyFaceEdits(model, request.faces, {
    elsewhere: (name) => {
      const from = there.get(name);
      return from ? (copyToDocument(document, from.document, [from.material]).get(from.material) as Material) : null;
    },
    raster: (key) => rasters?.get(key),
    picture: (material) => {
      const size = material?.getBaseColorTexture()?.getSize();
      return size ? [size[0], size[1]] : null;
    },
  });
  const root = document.getRoot();
  const [first = document.createBuffer(), ...others] = root.listBuffers();
  for (const accessor of root.listAccessors()) accessor.setBuffer(first);
  for (const other of others) other.dispose();
  const glb = (await io.writeBinary(document)) as Uint8Array<ArrayBuffer>;
  const answer: PreviewAnswer = { id: request.id, type: 'done', glb, changes, took: performance.now() - begun };
  self.postMessage(answer, { transfer: [glb.buffer] });
}

self.onmessage = ({ data }: MessageEvent<PreviewRequest | GatherRequest>) => {
  ('gather' in data ? gather(data) : preview(data)).catch((error: unknown) => {
    const message = error instanceof Error ? error.message : String(error);
    self.postMessage({ id: data.id, type: 'failed', message } satisfies PreviewAnswer);
  });
};
