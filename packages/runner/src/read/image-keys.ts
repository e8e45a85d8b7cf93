import type { Texture } from '@gltf-transform/core';
import { bytesHash } from '../pictures/bytes-hash.ts';

const imageKeys = new WeakMap<Texture, string>();

/** Key of a texture's stored bytes; fixed at first use; see `forgetImageKey`. */
export function imageKey(texture: Texture): string {
  let key = imageKeys.get(texture);
  if (!key) {
    key = bytesHash(texture.getImage() ?? new Uint8Array(0));
    imageKeys.set(texture, key);
  }
  return key;
}

/** To be called when a texture's bytes were replaced. */
export function forgetImageKey(texture: Texture): void {
  imageKeys.delete(texture);
}
