import { metallicRoughnessMaps, type SpecularGlossiness } from '@wembrel/core/image/metal-rough';
import { taskGroup } from '../pool/task.ts';
import { decodeImage } from './codec.ts';
import { composePicture, rasterPng } from './compose.ts';

/** A picture that becomes PNG, its pixels unchanged. */
export interface ToPng {
  path: string;
  name: string;
  bytes: Uint8Array;
  as: 'stored' | 'colour';
}

/** Textures of a specular-glossiness material. */
export interface ToMetalRough {
  path: string;
  diffuse: { name: string; bytes: Uint8Array } | null;
  specular: { name: string; bytes: Uint8Array } | null;
  factors: SpecularGlossiness;
}

/** Pictures that are made from others while files are read. */
export const compositionTasks = taskGroup('composition', {
  compose: composePicture,

  async toPng(toPng: ToPng): Promise<Uint8Array> {
    return rasterPng(await decodeImage(toPng.path, toPng.name, toPng.bytes, toPng.as));
  },

  async toMetalRough(toMetalRough: ToMetalRough): Promise<{ baseColor: Uint8Array; metallicRoughness: Uint8Array }> {
    const read = async (p: ToMetalRough['diffuse']) =>
      p ? decodeImage(toMetalRough.path, p.name, p.bytes, 'colour') : null;
    const maps = metallicRoughnessMaps(
      await read(toMetalRough.diffuse),
      await read(toMetalRough.specular),
      toMetalRough.factors,
    );
    return {
      baseColor: await rasterPng(maps.baseColor),
      metallicRoughness: await rasterPng(maps.metallicRoughness),
    };
  },
});
