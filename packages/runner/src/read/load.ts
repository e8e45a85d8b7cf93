import { readFile, stat } from 'node:fs/promises';
import { dirname, posix, resolve, sep } from 'node:path';
import { type Document, NodeIO, type Texture } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { InputError } from '@wembrel/core/errors';
import { checkDocument } from '@wembrel/core/formats/gltf/check';
import { isGlb, parseGlb, parseJson } from '@wembrel/core/formats/gltf/glb';
import { LIMITS } from '@wembrel/core/limits';
import { type Model, readModel } from '@wembrel/core/scene/model';
import { MeshoptDecoder } from 'meshoptimizer/decoder';
import { bytesHash } from '../codec.ts';
import type { InputFile } from './collect.ts';

/** A reader and writer with every extension that Wembrel knows. */
export async function gltfIo(): Promise<NodeIO> {
  await MeshoptDecoder.ready;
  return new NodeIO()
    .registerExtensions(ALL_EXTENSIONS)
    .registerDependencies({ 'meshopt.decoder': MeshoptDecoder })
    .setLogger({ debug() {}, info() {}, warn() {}, error() {} } as never);
}

const imageKeys = new WeakMap<Texture, string>();

/** Key of a texture's stored bytes; fixed at first use, since textures are never changed in place. */
export function imageKey(texture: Texture): string {
  let key = imageKeys.get(texture);
  if (!key) {
    key = bytesHash(texture.getImage() ?? new Uint8Array(0));
    imageKeys.set(texture, key);
  }
  return key;
}

/**
 * Reads one GLB or glTF file with what lies beside it.
 * Errors call it by its `name`.
 * @throws InputError with one sentence; nothing else is thrown for bad input
 */
export async function loadModel({ path, name, siblings }: InputFile): Promise<Model> {
  const info = await stat(path).catch(() => null);
  if (!info) throw new InputError(name, 'there is no such file');
  if (info.size > LIMITS.fileBytes)
    throw new InputError(name, `is ${info.size} bytes; at most ${LIMITS.fileBytes} are read`);
  if (info.size === 0) throw new InputError(name, 'the file is empty');
  const bytes = new Uint8Array(await readFile(path));
  const resources = new Map<string, Uint8Array>();
  let json: unknown;
  let bin: Uint8Array | null = null;
  if (isGlb(bytes)) ({ json, bin } = parseGlb(name, bytes));
  else if (/\.glb$/i.test(name)) throw new InputError(name, 'the file does not begin like a GLB');
  else json = parseJson(name, bytes);
  for (const uri of externalUris(json)) {
    const file = siblings ? siblingFile(name, uri, siblings) : sideFile(path, uri);
    if (file === null) throw new InputError(name, `"${uri}" lies outside the folder of the model`);
    const data = file === '' ? null : await readFile(file).catch(() => null);
    if (data) resources.set(uri, new Uint8Array(data));
  }
  checkDocument({
    path: name,
    json,
    binLength: bin?.length ?? null,
    resourceLength: (uri) => resources.get(uri)?.length ?? null,
  });
  const document = await buildDocument(name, json, bin, resources);
  try {
    return readModel(name, document, imageKey);
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw new InputError(
      name,
      `cannot be read: ${String(error instanceof Error ? error.message : error).split('\n')[0]}`,
    );
  }
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

/** Blob of a side file by its logical path; '' when it was not given, null when the URI leads elsewhere. */
function siblingFile(name: string, uri: string, siblings: Record<string, string>): string | null {
  if (/^[a-z][a-z0-9+.-]*:/i.test(uri)) return null;
  const logical = posix.normalize(posix.join(posix.dirname(name), decoded(uri)));
  return Object.hasOwn(siblings, logical) ? siblings[logical] : '';
}

function decoded(uri: string): string {
  try {
    return decodeURIComponent(uri).replace(/\\/g, '/');
  } catch {
    return uri.replace(/\\/g, '/'); // not percent-encoded: take it as written
  }
}

/** Path of a side file, or null when the URI leads out of the model's folder or to another machine. */
function sideFile(model: string, uri: string): string | null {
  if (/^[a-z][a-z0-9+.-]*:/i.test(uri)) return null;
  const folder = resolve(dirname(model));
  const file = resolve(folder, decoded(uri));
  return file.startsWith(folder + sep) ? file : null;
}
