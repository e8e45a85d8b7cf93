import type { Document, Material, Texture } from '@gltf-transform/core';
import type { PBRSpecularGlossiness } from '@gltf-transform/extensions';
import type { SourceOptions } from '@wembrel/core/decisions/reading';
import type { ChannelSource } from '../pictures/compose.ts';
import { GLTF_KINDS, imageKind } from '../pictures/kind.ts';
import type { PictureWork } from '../pictures/work.ts';

/** How materials read a texture. */
function usesOf(texture: Texture): Set<string> {
  return new Set(
    texture
      .getGraph()
      .listParentEdges(texture)
      .map((edge) => edge.getName()),
  );
}

const COLOUR = /^(baseColor|emissive|diffuse|specularGlossiness|sheenColor|specularColor)Texture$/;

const nameOf = (texture: Texture) => texture.getName() || texture.getURI() || 'unnamed';

/**
 * Brings a document that was read to what everything else expects: geometry unpacked, pictures PNG, JPEG or WebP, materials
 * metallic and rough, normals Y up, colours sRGB.
 * @returns what was changed, as notes
 * @throws InputError when a picture cannot be decoded
 */
export async function normalizeDocument(
  path: string,
  document: Document,
  options: SourceOptions,
  work: PictureWork,
): Promise<string[]> {
  const notes: string[] = [];
  const root = document.getRoot();
  const drop = (name: string): boolean => {
    const found = root.listExtensionsUsed().filter((extension) => extension.extensionName === name);
    for (const extension of found) extension.dispose();
    return found.length > 0;
  };
  if (drop('KHR_draco_mesh_compression')) notes.push('Draco geometry is unpacked');
  let converted = 0;
  await Promise.all(
    root.listTextures().map(async (texture) => {
      const bytes = texture.getImage();
      const kind = bytes ? imageKind(bytes) : null;
      if (!bytes || kind === null || GLTF_KINDS.has(kind)) return;
      const as = [...usesOf(texture)].some((u) => COLOUR.test(u)) ? 'colour' : 'stored';
      texture.setImage((await work.toPng({ path, name: nameOf(texture), bytes, as })) as Uint8Array<ArrayBuffer>);
      texture.setMimeType('image/png').setURI('');
      converted++;
    }),
  );
  if (drop('KHR_texture_basisu') || converted > 0)
    notes.push(`${converted === 1 ? 'one texture is' : `${converted} textures are`} unpacked to PNG`);
  const glossy = root.listMaterials().filter((material) => specularGlossiness(material));
  if (glossy.length > 0) {
    const left: string[] = [];
    for (const material of glossy)
      if (!(await convertGlossiness(path, document, material, work))) left.push(material.getName());
    if (left.length === 0) drop('KHR_materials_pbrSpecularGlossiness');
    if (glossy.length > left.length)
      notes.push('specular-glossiness materials are converted to metallic and roughness');
    for (const name of left)
      notes.push(`"${name}" reads its two pictures in different ways and stays specular-glossiness`);
  }
  await reinterpret(path, document, options, work);
  return notes;
}

/** Reads normals, roughness and colours in another way than glTF does, by the choice made for the source. */
async function reinterpret(path: string, document: Document, o: SourceOptions, work: PictureWork): Promise<void> {
  if (o.normalY === 'up' && !o.gloss && o.colour === 'srgb') return;
  await Promise.all(
    document
      .getRoot()
      .listTextures()
      .map(async (texture) => {
        const bytes = texture.getImage();
        const uses = usesOf(texture);
        if (!bytes) return;
        const flip =
          (o.normalY === 'down' && uses.has('normalTexture')) || (o.gloss && uses.has('metallicRoughnessTexture'));
        const encode = o.colour === 'linear' && [...uses].some((u) => COLOUR.test(u));
        if (!flip && !encode) return;
        const channel = (k: 0 | 1 | 2): ChannelSource => ({ picture: 0, channel: k, encode, invert: flip && k === 1 });
        const made = await work.compose({
          path,
          pictures: [{ name: nameOf(texture), bytes, as: 'stored' }],
          channels: [channel(0), channel(1), channel(2), { picture: 0, channel: 3 }],
        });
        texture
          .setImage(made as Uint8Array<ArrayBuffer>)
          .setMimeType('image/png')
          .setURI('');
      }),
  );
}

function specularGlossiness(material: Material): PBRSpecularGlossiness | null {
  return material.getExtension<PBRSpecularGlossiness>('KHR_materials_pbrSpecularGlossiness');
}

/** False when the two pictures are read in different ways, so that one picture cannot hold both. */
async function convertGlossiness(
  path: string,
  document: Document,
  material: Material,
  work: PictureWork,
): Promise<boolean> {
  const g = specularGlossiness(material) as PBRSpecularGlossiness;
  const diffuse = g.getDiffuseTexture();
  const specular = g.getSpecularGlossinessTexture();
  const [a, b] = [g.getDiffuseTextureInfo(), g.getSpecularGlossinessTextureInfo()];
  const reading = (i: typeof a) =>
    i &&
    JSON.stringify([
      i.getTexCoord(),
      i.getWrapS(),
      i.getWrapT(),
      (i.getExtension('KHR_texture_transform') as { toJSON?: unknown } | null) && transformOf(i),
    ]);
  if (diffuse && specular && reading(a) !== reading(b)) return false;
  const stored = (texture: Texture | null) =>
    texture?.getImage() ? { name: nameOf(texture), bytes: texture.getImage() as Uint8Array } : null;
  const maps = await work.toMetalRough({
    path,
    diffuse: stored(diffuse),
    specular: stored(specular),
    factors: {
      diffuse: g.getDiffuseFactor() as [number, number, number, number],
      specular: g.getSpecularFactor() as [number, number, number],
      glossiness: g.getGlossinessFactor(),
    },
  });
  material.setExtension('KHR_materials_pbrSpecularGlossiness', null);
  const texture = (name: string, bytes: Uint8Array) =>
    document
      .createTexture(name)
      .setImage(bytes as Uint8Array<ArrayBuffer>)
      .setMimeType('image/png');
  const info = diffuse ? a : b;
  material.setBaseColorFactor([1, 1, 1, 1]).setMetallicFactor(1).setRoughnessFactor(1);
  material.setBaseColorTexture(texture(`${material.getName()}_baseColor`, maps.baseColor));
  material.setMetallicRoughnessTexture(texture(`${material.getName()}_metallicRoughness`, maps.metallicRoughness));
  for (const to of [material.getBaseColorTextureInfo(), material.getMetallicRoughnessTextureInfo()]) {
    if (!to || !info) continue;
    to.setTexCoord(info.getTexCoord()).setWrapS(info.getWrapS()).setWrapT(info.getWrapT());
    to.setMagFilter(info.getMagFilter()).setMinFilter(info.getMinFilter());
    to.setExtension('KHR_texture_transform', info.getExtension('KHR_texture_transform'));
  }
  for (const texture of [diffuse, specular])
    if (texture?.listParents().every((parent) => parent.propertyType === 'Root')) texture.dispose();
  return true;
}

function transformOf(info: { getExtension(name: string): unknown }): unknown {
  const extension = info.getExtension('KHR_texture_transform') as {
    getOffset(): number[];
    getScale(): number[];
    getRotation(): number;
    getTexCoord(): number | null;
  };
  return [extension.getOffset(), extension.getScale(), extension.getRotation(), extension.getTexCoord()];
}
