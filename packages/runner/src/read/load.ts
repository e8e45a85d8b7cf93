import { readFile, stat } from 'node:fs/promises';
import type { Document } from '@gltf-transform/core';

import { SourceOptions } from '@wembrel/core/decisions/reading';
import { InputError } from '@wembrel/core/errors';
import { checkDocument } from '@wembrel/core/formats/gltf/check';
import { isGlb, parseGlb, parseJson } from '@wembrel/core/formats/gltf/glb';
import { mendDocument } from '@wembrel/core/formats/gltf/mend';
import { LIMITS } from '@wembrel/core/limits';
import { mendVectors } from '@wembrel/core/scene/mend-vectors';
import { type Model, readModel } from '@wembrel/core/scene/model';

import { HERE, type PictureWork } from '../pictures/work.ts';
import type { InputFile } from './collect.ts';
import { gltfIo } from './gltf-io.ts';
import { imageKey } from './image-keys.ts';
import { normalizeDocument } from './normalize-document.ts';
import { sideFile } from './side-files.ts';
import { readSimple } from './simple.ts';

/** A model read again from its document, after that was changed in memory; what is known of its file stays. */
export function rereadModel({ path, document, notes, format, sideFiles, missing, mended }: Model): Model {
  return Object.assign(readModel(path, document, imageKey), { notes, format, sideFiles, missing, mended });
}

/** What reading a file may depend on beside the file itself. */
export interface LoadOptions {
  source?: SourceOptions;
  work?: PictureWork;
}

/**
 * Reads one model with what lies beside it: GLB, glTF, OBJ, PLY or STL. Errors call it by its `name`.
 * @throws InputError with one sentence; nothing else is thrown for bad input
 */
export async function loadModel(file: InputFile, options: LoadOptions = {}): Promise<Model> {
  const { path, name } = file;
  const source = options.source ?? SourceOptions.parse({});
  const work = options.work ?? HERE;
  const info = await stat(path).catch(() => null);
  if (!info) throw new InputError(name, 'there is no such file');
  if (info.size > LIMITS.fileBytes)
    throw new InputError(name, `is ${info.size} bytes; at most ${LIMITS.fileBytes} are read`);
  if (info.size === 0) throw new InputError(name, 'the file is empty');
  const bytes = new Uint8Array(await readFile(path));
  try {
    const ending = name.slice(name.lastIndexOf('.') + 1).toLowerCase();
    if (ending === 'obj' || ending === 'ply' || ending === 'stl') {
      const read = await readSimple(file, ending, bytes, source, work);
      await normalizeDocument(name, read.document, SourceOptions.parse({}), work);
      const model = readModel(name, read.document, imageKey);
      model.notes.unshift(...read.notes);
      return Object.assign(model, { format: ending, sideFiles: read.used, missing: read.missing } as const);
    }
    const { document, used, mended } = await readGltf(file, bytes);
    mended.push(...mendVectors(document));
    const notes = await normalizeDocument(name, document, source, work);
    const model = readModel(name, document, imageKey);
    model.notes.unshift(...notes, ...mended.map((fault) => `put right: ${fault}`));
    return Object.assign(model, { sideFiles: used, mended });
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw new InputError(
      name,
      `cannot be read: ${String(error instanceof Error ? error.message : error).split('\n')[0]}`,
    );
  }
}

async function readGltf(
  file: InputFile,
  bytes: Uint8Array,
): Promise<{ document: Document; used: string[]; mended: string[] }> {
  const { name } = file;
  const resources = new Map<string, Uint8Array>();
  const used: string[] = [];
  let json: unknown;
  let bin: Uint8Array | null = null;
  if (isGlb(bytes)) ({ json, bin } = parseGlb(name, bytes));
  else if (/\.glb$/i.test(name)) throw new InputError(name, 'the file does not begin like a GLB');
  else json = parseJson(name, bytes);
  const mended = mendDocument(json);
  for (const uri of externalUris(json)) {
    const side = sideFile(file, uri);
    if (side === null) throw new InputError(name, `"${uri}" lies outside the folder of the model`);
    const data = side === '' ? null : await readFile(side.path).catch(() => null);
    if (!data || side === '') continue;
    resources.set(uri, new Uint8Array(data));
    used.push(side.key);
  }
  checkDocument({
    path: name,
    json,
    binLength: bin?.length ?? null,
    resourceLength: (uri) => resources.get(uri)?.length ?? null,
  });
  return { document: await buildDocument(name, json, bin, resources), used, mended };
}

async function buildDocument(
  name: string,
  json: unknown,
  bin: Uint8Array | null,
  resources: Map<string, Uint8Array>,
): Promise<Document> {
  const table: Record<string, Uint8Array<ArrayBuffer>> = {};
  for (const [uri, data] of resources) table[uri] = data as Uint8Array<ArrayBuffer>;
  if (bin) table['@glb.bin'] = bin as Uint8Array<ArrayBuffer>;
  try {
    const io = await gltfIo();
    return await io.readJSON({ json: json as never, resources: table });
  } catch (error) {
    const text = String(error instanceof Error ? error.message : error).split('\n')[0];
    throw new InputError(name, `cannot be read: ${text}`);
  }
}

function externalUris(json: unknown): string[] {
  const out = new Set<string>();
  const doc = json as { buffers?: unknown; images?: unknown } | null;
  for (const list of [doc?.buffers, doc?.images]) {
    if (!Array.isArray(list)) continue;
    for (const e of list) {
      const uri = (e as { uri?: unknown } | null)?.uri;
      if (typeof uri === 'string' && !uri.startsWith('data:')) out.add(uri);
    }
  }
  return [...out];
}
