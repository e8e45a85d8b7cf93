import { utf8Bytes } from '@wembrel/core/formats/gltf/glb';
import { buildLampPosts } from './lamp-posts.ts';
import { buildLocker, lockerIds } from './parcel-locker.ts';
import { groundTextures, parcelEmblem, stopName } from './pictures.ts';
import { DEMO_RECIPES } from './recipes.ts';

/** What recipes are tried on: models as modelling leaves them, pictures, and the recipes themselves. */
export function buildDressed(): Record<string, Uint8Array> {
  const recipes = Object.entries(DEMO_RECIPES).map(
    ([name, recipe]) => [name, utf8Bytes(`${JSON.stringify(recipe, null, 2)}\n`)] as const,
  );
  return {
    'parcel-locker.glb': buildLocker(),
    'locker-ids.png': lockerIds(),
    'emblem_basecolor.png': parcelEmblem(),
    'stop-name_basecolor.png': stopName(),
    ...buildLampPosts(),
    ...groundTextures(),
    ...Object.fromEntries(recipes),
  };
}
