import type { Document, Material, Texture } from '@gltf-transform/core';
import { KHRTextureTransform } from '@gltf-transform/extensions';
import type { MapName, SourceOptions } from '@wembrel/core/decisions/reading';
import { attachMap, type ImportedMap } from '@wembrel/core/formats/imported';
import { meanColour } from '@wembrel/core/image/raster';
import { bytesHash } from '../pictures/bytes-hash.ts';
import { decodeImage } from '../pictures/codec.ts';
import type { ChannelSource, Composition } from '../pictures/compose.ts';
import { GLTF_KINDS, imageKind } from '../pictures/kind.ts';
import type { PictureWork } from '../pictures/work.ts';

/** A picture that a material gets, and which of its channels is meant. */
export interface MapPicture {
  name: string;
  bytes: Uint8Array;
  /** null: all of it (colours), or the first channel (values). */
  channel: 0 | 1 | 2 | 3 | null;
  options: SourceOptions;
  placing?: Omit<ImportedMap, 'file'>;
}

export type MaterialMaps = Partial<Record<MapName, MapPicture>>;

/** True for a picture that looks like tangent-space normals: mostly blue, red and green around the middle. */
export async function looksLikeNormals(path: string, name: string, bytes: Uint8Array): Promise<boolean> {
  const [r, g, b] = meanColour(await decodeImage(path, name, bytes));
  return b > 180 && Math.abs(r - 128) < 40 && Math.abs(g - 128) < 40;
}

/** Puts pictures on materials of a document; equal ones become one texture. */
export class MapApplier {
  private readonly made = new Map<string, Promise<Texture>>();

  constructor(
    private readonly path: string,
    private readonly document: Document,
    private readonly work: PictureWork,
  ) {}

  /** @throws InputError when a picture cannot be decoded */
  async apply(material: Material, maps: MaterialMaps): Promise<void> {
    const { baseColor, opacity, normal, emissive, occlusion } = maps;
    if (baseColor || opacity) {
      const base = baseColor ?? (opacity as MapPicture);
      const rgb = (k: 0 | 1 | 2): ChannelSource => (baseColor ? this.colour(0, k, base) : { constant: 1 });
      const sources = opacity && baseColor ? [baseColor, opacity] : [base];
      const alpha: ChannelSource = opacity
        ? { picture: sources.length - 1, channel: opacity.channel ?? 0 }
        : { picture: 0, channel: 3 };
      await this.put(material, 'baseColor', base, sources, [rgb(0), rgb(1), rgb(2), alpha], 'colour');
      if (opacity && material.getAlphaMode() === 'OPAQUE') material.setAlphaMode('MASK');
    }
    if (emissive)
      await this.put(
        material,
        'emissive',
        emissive,
        [emissive],
        [this.colour(0, 0, emissive), this.colour(0, 1, emissive), this.colour(0, 2, emissive), { constant: 1 }],
        'colour',
      );
    if (normal)
      await this.put(
        material,
        'normal',
        normal,
        [normal],
        [
          { picture: 0, channel: 0 },
          { picture: 0, channel: 1, invert: normal.options.normalY === 'down' },
          { picture: 0, channel: 2 },
          { constant: 1 },
        ],
        'stored',
      );
    const rough = maps.roughness ?? maps.gloss;
    if (rough || maps.metallic) await this.packed(material, maps, rough);
    else if (occlusion)
      await this.put(
        material,
        'occlusion',
        occlusion,
        [occlusion],
        [value(0, occlusion), value(0, occlusion), value(0, occlusion), { constant: 1 }],
        'stored',
      );
  }

  /** Occlusion, roughness and metallic in R, G and B of one picture. */
  private async packed(material: Material, maps: MaterialMaps, rough: MapPicture | undefined): Promise<void> {
    const { metallic, occlusion } = maps;
    const sources: MapPicture[] = [];
    const from = (mapPicture: MapPicture | undefined, invert = false): ChannelSource => {
      if (!mapPicture) return { constant: 1 };
      let at = sources.findIndex((source) => source.bytes === mapPicture.bytes);
      if (at < 0) at = sources.push(mapPicture) - 1;
      return { ...value(at, mapPicture), invert };
    };
    const channels: Composition['channels'] = [
      from(occlusion),
      from(rough, rough !== undefined && (maps.roughness === undefined || rough.options.gloss)),
      from(metallic),
      { constant: 1 },
    ];
    const first = sources[0];
    const texture = await this.put(material, 'metallicRoughness', first, sources, channels, 'stored');
    if (rough) material.setRoughnessFactor(1);
    if (metallic) material.setMetallicFactor(1);
    if (occlusion) {
      attachMap(material, 'occlusion', texture);
      place(this.document, material, 'occlusion', first);
    }
  }

  private colour(picture: number, channel: 0 | 1 | 2, mapPicture: MapPicture): ChannelSource {
    return {
      picture,
      channel: mapPicture.channel ?? channel,
      encode: mapPicture.options.colour === 'linear' && imageKind(mapPicture.bytes) !== 'exr',
    };
  }

  private async put(
    material: Material,
    kind: Parameters<typeof attachMap>[1],
    first: MapPicture,
    sources: MapPicture[],
    channels: Composition['channels'],
    as: 'stored' | 'colour',
  ): Promise<Texture> {
    const texture = await this.texture(first.name, sources, channels, as);
    attachMap(material, kind, texture);
    place(this.document, material, kind, first);
    if (kind === 'baseColor') {
      const f = material.getBaseColorFactor();
      if (f.slice(0, 3).every((v) => v === 0)) material.setBaseColorFactor([1, 1, 1, f[3]]);
    }
    return texture;
  }

  private texture(
    name: string,
    sources: MapPicture[],
    channels: Composition['channels'],
    as: 'stored' | 'colour',
  ): Promise<Texture> {
    const key = JSON.stringify([sources.map((source) => bytesHash(source.bytes)), channels, as]);
    let made = this.made.get(key);
    if (!made) {
      made = (async () => {
        const bytes = asItIs(sources, channels)
          ? sources[0].bytes
          : await this.work.compose({
              path: this.path,
              pictures: sources.map((source) => ({ name: source.name, bytes: source.bytes, as })),
              channels,
            });
        const kind = imageKind(bytes);
        return this.document
          .createTexture(name.replace(/^.*\//, '').replace(/\.[^.]+$/, ''))
          .setImage(bytes as Uint8Array<ArrayBuffer>)
          .setMimeType(`image/${kind ?? 'png'}`);
      })();
      this.made.set(key, made);
    }
    return made;
  }
}

const value = (picture: number, mapPicture: MapPicture): ChannelSource => ({
  picture,
  channel: mapPicture.channel ?? 0,
});

/** True when nothing has to be done to the one picture. Alpha that nobody reads does no harm. */
function asItIs(sources: MapPicture[], channels: Composition['channels']): boolean {
  const kind = sources.length === 1 ? imageKind(sources[0].bytes) : null;
  if (kind === null || !GLTF_KINDS.has(kind)) return false;
  return channels.every((channel, k) =>
    'constant' in channel
      ? k === 3 || k === 0
      : channel.picture === 0 && channel.channel === k && !channel.invert && !channel.encode,
  );
}

function place(document: Document, material: Material, kind: string, mapPicture: MapPicture): void {
  const info = {
    baseColor: material.getBaseColorTextureInfo(),
    normal: material.getNormalTextureInfo(),
    emissive: material.getEmissiveTextureInfo(),
    occlusion: material.getOcclusionTextureInfo(),
    metallicRoughness: material.getMetallicRoughnessTextureInfo(),
  }[kind];
  if (!info || !mapPicture.placing) return;
  const { offset, scale, clamp } = mapPicture.placing;
  if (clamp) info.setWrapS(33071).setWrapT(33071);
  if (!offset && !scale) return;
  const [sx, sy] = scale ?? [1, 1];
  const [ox, oy] = offset ?? [0, 0];
  const extension = transforms(document);
  // The file's V points up: v' = s·v + o becomes, with V down, v' = s·v + 1 − s − o.
  info.setExtension(
    'KHR_texture_transform',
    extension
      .createTransform()
      .setScale([sx, sy])
      .setOffset([ox, 1 - sy - oy]),
  );
}

function transforms(document: Document) {
  return document.createExtension(KHRTextureTransform);
}
