import { type Document, type Material, type Texture, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { copyToDocument } from '@gltf-transform/functions';
import { applyFaceEdits, type FaceChanges } from '@wembrel/core/faces/apply-faces';
import type { FaceDecisions } from '@wembrel/core/faces/face-decisions';
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

export type PreviewAnswer =
  | { id: number; type: 'done'; glb: Uint8Array<ArrayBuffer>; changes: FaceChanges; took: number }
  | { id: number; type: 'failed'; message: string };

const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
const files = new Map<string, Promise<Uint8Array>>();

function bytesOf(url: string): Promise<Uint8Array> {
  const known = files.get(url);
  if (known) return known;
  const read = fetch(url).then(async (r) => {
    if (!r.ok) throw new Error(`the server answered ${r.status}`);
    return new Uint8Array(await r.arrayBuffer());
  });
  // The last few are enough: one model is worked on at a time.
  if (files.size > 6) files.delete(files.keys().next().value as string);
  files.set(url, read);
  return read;
}

const documentOf = async (url: string): Promise<Document> => io.readBinary(await bytesOf(url));

/** Slots that edits in force name and the model does not have. */
function missingSlots(model: Model, { edits }: FaceDecisions): Set<string> {
  const own = new Set(model.slots.map((s) => s.name));
  const named = edits.flatMap((e) => {
    if (e.off || e.kind === 'swatch') return [];
    if (e.kind === 'cells') return e.mix.map((m) => m.slot);
    return 'slot' in e && e.slot !== null ? [e.slot] : [];
  });
  return new Set(named.filter((n) => !own.has(n)));
}

async function preview(r: PreviewRequest): Promise<void> {
  const begun = performance.now();
  const document = await documentOf(r.url);
  const keys = new Map<Texture, string>();
  const model = readModel(r.path, document, (t) => {
    const known = keys.get(t) ?? String(keys.size);
    keys.set(t, known);
    return known;
  });
  const wanted = missingSlots(model, r.faces);
  const there = new Map<string, { document: Document; material: Material }>();
  for (const [name, url] of r.elsewhere) {
    if (!wanted.has(name) || there.has(name)) continue;
    const other = await documentOf(url);
    const material = other
      .getRoot()
      .listMaterials()
      .find((m) => m.getName() === name);
    if (material) there.set(name, { document: other, material });
  }
  const changes = applyFaceEdits(model, r.faces, {
    elsewhere: (name) => {
      const from = there.get(name);
      return from ? (copyToDocument(document, from.document, [from.material]).get(from.material) as Material) : null;
    },
    picture: (m) => {
      const size = m?.getBaseColorTexture()?.getSize();
      return size ? [size[0], size[1]] : null;
    },
  });
  const root = document.getRoot();
  const [first = document.createBuffer(), ...others] = root.listBuffers();
  for (const a of root.listAccessors()) a.setBuffer(first);
  for (const b of others) b.dispose();
  const glb = (await io.writeBinary(document)) as Uint8Array<ArrayBuffer>;
  const answer: PreviewAnswer = { id: r.id, type: 'done', glb, changes, took: performance.now() - begun };
  self.postMessage(answer, { transfer: [glb.buffer] });
}

self.onmessage = ({ data }: MessageEvent<PreviewRequest>) => {
  preview(data).catch((error: unknown) => {
    const message = error instanceof Error ? error.message : String(error);
    self.postMessage({ id: data.id, type: 'failed', message } satisfies PreviewAnswer);
  });
};
