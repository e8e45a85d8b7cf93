import { levelSetBytes, toLevels } from '@wembrel/core/image/levels';
import type { Model } from '@wembrel/core/scene/model';
import { usedTextures } from '@wembrel/core/survey/figures';
import type { LevelSet } from '@wembrel/kernels/sample';
import { decodeImage } from '../pictures/codec.ts';
import { imageKey } from '../read/image-keys.ts';

/** Base colours of the alpha-tested materials of a model, by image. @throws InputError when one cannot be decoded */
export async function cutAwayPictures(model: Model): Promise<Map<string, LevelSet>> {
  const wanted = new Set(
    model.slots.flatMap(({ look }) => (look.alphaMode === 'MASK' && look.baseColor ? [look.baseColor.image] : [])),
  );
  const out = new Map<string, LevelSet>();
  for (const texture of usedTextures(model)) {
    const key = imageKey(texture);
    if (!wanted.has(key) || out.has(key)) continue;
    const name = texture.getName() || texture.getURI() || 'unnamed';
    const raster = await decodeImage(model.path, name, texture.getImage() ?? new Uint8Array(0));
    const memory = new SharedArrayBuffer(levelSetBytes(raster.width, raster.height, false));
    out.set(key, toLevels(raster, 'srgb', true, false, memory));
  }
  return out;
}
