import type { Material, Texture, TextureInfo } from '@gltf-transform/core';
import type { Transform as TextureTransform } from '@gltf-transform/extensions';
import { materialExtensions } from './material-extensions.ts';

/** How one channel of a material reads its image. */
export interface TextureUse {
  /** Key of the image in the image table (hash of its stored bytes). */
  image: string;
  /** UV set, 0 … */
  uvSet: number;
  /** KHR_texture_transform as u' = a·u + c·v + e, v' = b·u + d·v + f. */
  transform: [a: number, b: number, c: number, d: number, e: number, f: number];
  wrapS: number;
  wrapT: number;
  /** Magnification without blending (pixel art). */
  nearest: boolean;
  /** Minification without mips, as its sampler has it; absent where mips are read. */
  unmipped?: true;
}

/** All that decides how a material looks, as plain data; equal looks are duplicates. */
export interface MaterialLook {
  alphaMode: 'OPAQUE' | 'MASK' | 'BLEND';
  alphaCutoff: number;
  doubleSided: boolean;
  unlit: boolean;
  /** Linear factors. */
  baseColorFactor: [number, number, number, number];
  baseColor: TextureUse | null;
  metallicFactor: number;
  roughnessFactor: number;
  /** Metallic in B, roughness in G. */
  metallicRoughness: TextureUse | null;
  normalScale: number;
  normal: TextureUse | null;
  occlusionStrength: number;
  /** Occlusion in R. */
  occlusion: TextureUse | null;
  /** Linear factors, already times KHR_materials_emissive_strength; may be above 1. */
  emissiveFactor: [number, number, number];
  emissive: TextureUse | null;
  /** Extensions on the material that a sheet does not carry. */
  foreign: string[];
  /** Values of those that it carries; see `materialExtensions`. */
  carried: string;
}

/** The channels that read an image, in a fixed order. */
export const IMAGE_CHANNELS = ['baseColor', 'metallicRoughness', 'normal', 'occlusion', 'emissive'] as const;
export type ImageChannel = (typeof IMAGE_CHANNELS)[number];

/** Batches that one worker has under way in one texture at the most: one a channel. */
export const READERS = IMAGE_CHANNELS.length;

/** What the specification gives a primitive without a material. */
export const DEFAULT_LOOK: MaterialLook = {
  alphaMode: 'OPAQUE',
  alphaCutoff: 0.5,
  doubleSided: false,
  unlit: false,
  baseColorFactor: [1, 1, 1, 1],
  baseColor: null,
  metallicFactor: 1,
  roughnessFactor: 1,
  metallicRoughness: null,
  normalScale: 1,
  normal: null,
  occlusionStrength: 1,
  occlusion: null,
  emissiveFactor: [0, 0, 0],
  emissive: null,
  foreign: [],
  carried: '',
};

/** Minification filters of glTF that read no mips: NEAREST and LINEAR. */
const UNMIPPED = new Set([9728, 9729]);

function textureUse(texture: Texture | null, info: TextureInfo | null, imageKey: (t: Texture) => string) {
  if (!texture || !info) return null;
  const ext = info.getExtension<TextureTransform>('KHR_texture_transform');
  let uvSet = info.getTexCoord();
  let transform: TextureUse['transform'] = [1, 0, 0, 1, 0, 0];
  if (ext) {
    const [ox, oy] = ext.getOffset();
    const [sx, sy] = ext.getScale();
    const rotation = ext.getRotation();
    const c = Math.cos(rotation);
    const s = Math.sin(rotation);
    // KHR_texture_transform: translation · rotation · scale, with V pointing down.
    transform = [c * sx, -s * sx, s * sy, c * sy, ox, oy];
    uvSet = ext.getTexCoord() ?? uvSet;
  }
  const use: TextureUse = {
    image: imageKey(texture),
    uvSet,
    transform,
    wrapS: info.getWrapS(),
    wrapT: info.getWrapT(),
    nearest: info.getMagFilter() === 9728,
  };
  if (UNMIPPED.has(info.getMinFilter() ?? 0)) use.unmipped = true;
  return use;
}

/** The look of a material; factors are resolved so that an unused map does not make two looks differ. */
export function materialLook(material: Material | null, imageKey: (texture: Texture) => string): MaterialLook {
  if (!material) return { ...DEFAULT_LOOK };
  const strength =
    material
      .getExtension<{ getEmissiveStrength(): number } & import('@gltf-transform/core').ExtensionProperty>(
        'KHR_materials_emissive_strength',
      )
      ?.getEmissiveStrength() ?? 1;
  const emissive = material.getEmissiveFactor();
  const mask = material.getAlphaMode() === 'MASK';
  const look: MaterialLook = {
    alphaMode: material.getAlphaMode(),
    alphaCutoff: mask ? material.getAlphaCutoff() : 0.5,
    doubleSided: material.getDoubleSided(),
    unlit: material.getExtension('KHR_materials_unlit') !== null,
    baseColorFactor: material.getBaseColorFactor() as MaterialLook['baseColorFactor'],
    baseColor: textureUse(material.getBaseColorTexture(), material.getBaseColorTextureInfo(), imageKey),
    metallicFactor: material.getMetallicFactor(),
    roughnessFactor: material.getRoughnessFactor(),
    metallicRoughness: textureUse(
      material.getMetallicRoughnessTexture(),
      material.getMetallicRoughnessTextureInfo(),
      imageKey,
    ),
    normalScale: material.getNormalTexture() ? material.getNormalScale() : 1,
    normal: textureUse(material.getNormalTexture(), material.getNormalTextureInfo(), imageKey),
    occlusionStrength: material.getOcclusionTexture() ? material.getOcclusionStrength() : 1,
    occlusion: textureUse(material.getOcclusionTexture(), material.getOcclusionTextureInfo(), imageKey),
    emissiveFactor: [emissive[0] * strength, emissive[1] * strength, emissive[2] * strength],
    emissive: null,
    ...materialExtensions(material),
  };
  if (look.emissiveFactor.some((v) => v > 0))
    look.emissive = textureUse(material.getEmissiveTexture(), material.getEmissiveTextureInfo(), imageKey);
  return look;
}

/**
 * One text for all that matters: materials with the same key are duplicates.
 * @param pixelKey maps an image key to the hash of its decoded pixels, so that copies under other encodings agree
 */
export function lookKey(look: MaterialLook, pixelKey: (image: string) => string): string {
  return JSON.stringify(look, (k, v) => (k === 'image' && typeof v === 'string' ? pixelKey(v) : v));
}

/** UV sets that the look reads, sorted. */
export function uvSetsUsed(look: MaterialLook): number[] {
  const sets = new Set<number>();
  for (const channel of IMAGE_CHANNELS) {
    const use = look[channel];
    if (use) sets.add(use.uvSet);
  }
  return [...sets].sort((a, b) => a - b);
}
