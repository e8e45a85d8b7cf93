import type { Document, Material, Texture } from '@gltf-transform/core';
import { srgbToLinear } from '../image/srgb.ts';
import { lookKey, materialLook } from '../scene/material.ts';

/** Value of a flat picture, each channel 0 … 1 as stored. */
export type FlatValue = [number, number, number, number];

/** Textures with the same pixels become one. @returns how many went */
export function shareTextures(document: Document, pixelKey: (texture: Texture) => string): number {
  const kept = new Map<string, Texture>();
  let gone = 0;
  for (const texture of document.getRoot().listTextures()) {
    const key = pixelKey(texture);
    const duplicate = kept.get(key);
    if (!duplicate) {
      kept.set(key, texture);
      continue;
    }
    for (const parent of texture.listParents()) if (parent.propertyType !== 'Root') parent.swap(texture, duplicate);
    texture.dispose();
    gone++;
  }
  return gone;
}

/** Materials that look exactly alike become one, by the name of the first. @returns how many went */
export function shareMaterials(document: Document, imageKey: (texture: Texture) => string): number {
  const kept = new Map<string, Material>();
  let gone = 0;
  for (const material of document.getRoot().listMaterials()) {
    const look = materialLook(material, imageKey);
    // What a sheet does not carry of an extension is not part of the look.
    if (look.foreign.length > 0) continue;
    const key = lookKey(look, (i) => i);
    const duplicate = kept.get(key);
    if (!duplicate) {
      kept.set(key, material);
      continue;
    }
    for (const parent of material.listParents()) if (parent.propertyType !== 'Root') parent.swap(material, duplicate);
    material.dispose();
    gone++;
  }
  return gone;
}

/**
 * Takes a flat texture out of all materials that read it and puts its value into their factors. A flat normal map must point
 * straight out, and a flat occlusion map must be white; others stay.
 * @returns in how many places it went
 */
export function flatToFactors(document: Document, texture: Texture, value: FlatValue): number {
  let gone = 0;
  const [r, g, b, a] = value;
  const linear = [srgbToLinear(r), srgbToLinear(g), srgbToLinear(b)];
  for (const material of document.getRoot().listMaterials()) {
    if (material.getBaseColorTexture() === texture) {
      const f = material.getBaseColorFactor();
      material
        .setBaseColorFactor([f[0] * linear[0], f[1] * linear[1], f[2] * linear[2], f[3] * a])
        .setBaseColorTexture(null);
      gone++;
    }
    if (material.getMetallicRoughnessTexture() === texture) {
      material
        .setRoughnessFactor(material.getRoughnessFactor() * g)
        .setMetallicFactor(material.getMetallicFactor() * b);
      material.setMetallicRoughnessTexture(null);
      gone++;
    }
    if (material.getEmissiveTexture() === texture) {
      const emissiveFactor = material.getEmissiveFactor();
      material
        .setEmissiveFactor([
          emissiveFactor[0] * linear[0],
          emissiveFactor[1] * linear[1],
          emissiveFactor[2] * linear[2],
        ])
        .setEmissiveTexture(null);
      gone++;
    }
    const straight = Math.abs(r - 0.5) < 0.012 && Math.abs(g - 0.5) < 0.012 && b > 0.98;
    if (material.getNormalTexture() === texture && straight) {
      material.setNormalTexture(null);
      gone++;
    }
    if (material.getOcclusionTexture() === texture && r > 0.99) {
      material.setOcclusionTexture(null);
      gone++;
    }
  }
  return gone;
}

/** Alpha-blended materials of these names are drawn opaque. @returns how many */
export function drawOpaque(document: Document, wanted: ReadonlySet<string>): number {
  let n = 0;
  for (const material of document.getRoot().listMaterials())
    if (material.getAlphaMode() === 'BLEND' && wanted.has(material.getName())) {
      material.setAlphaMode('OPAQUE');
      n++;
    }
  return n;
}
