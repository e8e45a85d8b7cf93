import { type Document, Format, type Texture } from '@gltf-transform/core';
import { buildGlb, utf8Bytes } from '@wembrel/core/formats/gltf/glb';
import { mendDocument } from '@wembrel/core/formats/gltf/mend';
import { type Names, stem } from '@wembrel/core/handover/names';
import type { Model } from '@wembrel/core/scene/model';
import { bytesHash } from '../pictures/bytes-hash.ts';
import { imageKind } from '../pictures/kind.ts';
import { gltfIo } from '../read/gltf-io.ts';
import type { Delivery } from './delivery.ts';

export const TEXTURE_FOLDER = 'textures';

/** Name under which the writer keeps the one buffer of a GLB. */
const GLB_BUFFER = '@glb.bin';

const ENDING: Record<string, string> = { png: '.png', jpeg: '.jpg', webp: '.webp' };

/** Gives textures of kept-apart slots a place in the delivery; the same bytes get the same file. */
export class TextureFiles {
  private readonly byHash = new Map<string, string>();
  constructor(
    private readonly names: Names,
    private readonly delivery: Delivery,
  ) {}

  /** A map of a sheet under its own name. */
  async add(name: string, bytes: Uint8Array): Promise<string> {
    const uri = `${TEXTURE_FOLDER}/${this.names.claim(name, '.png')}`;
    this.byHash.set(bytesHash(bytes), uri);
    await this.delivery.write(uri, bytes);
    return uri;
  }

  async place(texture: Texture): Promise<string> {
    const bytes = texture.getImage() ?? new Uint8Array(0);
    const hash = bytesHash(bytes);
    const known = this.byHash.get(hash);
    if (known) return known;
    const name = texture.getName() || (texture.getURI() ? stem(texture.getURI()) : 'texture');
    const uri = `${TEXTURE_FOLDER}/${this.names.claim(name, ENDING[imageKind(bytes) ?? 'png'])}`;
    this.byHash.set(hash, uri);
    await this.delivery.write(uri, bytes);
    return uri;
  }
}

/** Writes one model as GLB: textures beside it, or inside with `embed`. */
export async function writeModel(
  model: Model,
  file: string,
  embed: boolean,
  textures: TextureFiles,
  delivery: Delivery,
): Promise<void> {
  const { document } = model;
  if (!embed) for (const texture of document.getRoot().listTextures()) texture.setURI(await textures.place(texture));
  await writeDocument(document, file, delivery, embed);
}

/** Writes a document as GLB. @param embed textures inside it; else they are named by their addresses */
export async function writeDocument(
  document: Document,
  file: string,
  delivery: Delivery,
  embed = false,
): Promise<void> {
  const io = await gltfIo();
  const format = embed ? Format.GLB : Format.GLTF;
  const { json, resources } = await io.writeJSON(document, { format, basename: 'model' });
  const buffer = json.buffers?.[0];
  const bin = resources[buffer?.uri ?? GLB_BUFFER] ?? null;
  if (buffer) buffer.uri = undefined;
  // The writer leaves empty lists, which the standard does not allow, for instance where a scene shows nothing.
  mendDocument(json);
  await delivery.write(file, buildGlb(json, bin));
}

/** JSON for a delivery: stable, readable, ends with a newline. */
export function jsonFile(value: unknown): Uint8Array {
  return utf8Bytes(`${JSON.stringify(value, null, 2)}\n`);
}

/** Materials and textures that nothing shows any more. */
export function dropUnused(document: Document): void {
  const root = document.getRoot();
  const used = new Set(
    root.listMeshes().flatMap((mesh) => mesh.listPrimitives().map((primitive) => primitive.getMaterial())),
  );
  for (const material of root.listMaterials()) if (!used.has(material)) material.dispose();
  for (const texture of root.listTextures())
    if (texture.listParents().every((parent) => parent.propertyType === 'Root')) texture.dispose();
}
