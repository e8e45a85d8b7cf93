import { IMAGE_CHANNELS, type TextureUse } from '../scene/material.ts';
import type { RoutedMaterial } from './route.ts';

/** Size of an image by key; undefined for images that are one flat colour. */
export type ImageSizes = (image: string) => { width: number; height: number; flat: boolean; usefulSide?: number };

/** The channel whose UVs shape the layout: base colour if it has an image that is not flat, else the first such. */
export function layoutUse(material: RoutedMaterial, sizes: ImageSizes): TextureUse | null {
  for (const channel of IMAGE_CHANNELS) {
    const use = material.look[channel];
    if (use && !sizes(use.image).flat) return use;
  }
  return null;
}

/** Reference size of a material: the largest of its images that are not flat, axis by axis. */
export function referenceSize(material: RoutedMaterial, sizes: ImageSizes): [number, number] {
  let w = 1;
  let h = 1;
  for (const channel of IMAGE_CHANNELS) {
    const use = material.look[channel];
    if (!use) continue;
    const s = sizes(use.image);
    if (s.flat) continue;
    w = Math.max(w, s.width);
    h = Math.max(h, s.height);
  }
  return [w, h];
}
