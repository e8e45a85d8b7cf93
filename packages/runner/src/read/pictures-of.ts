import type { Raster } from '@wembrel/core/image/raster';
import type { Model } from '@wembrel/core/scene/model';
import { decodeImage } from '../pictures/codec.ts';
import { imageKey } from './image-keys.ts';

/** All pictures of a model, decoded, by their keys. @throws InputError */
export async function picturesOf(model: Model): Promise<Map<string, Raster>> {
  const out = new Map<string, Raster>();
  for (const texture of model.document.getRoot().listTextures()) {
    const bytes = texture.getImage();
    const key = imageKey(texture);
    if (!bytes || out.has(key)) continue;
    out.set(key, await decodeImage(model.path, texture.getName() || 'texture', bytes));
  }
  return out;
}
