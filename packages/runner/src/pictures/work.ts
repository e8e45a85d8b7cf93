import { metallicRoughnessMaps, type SpecularGlossiness } from '@wembrel/core/image/metal-rough';
import { decodeImage } from '../codec.ts';
import { decodingLimit, type Pool } from '../pool/pool.ts';
import { type Composition, composePicture, rasterPng } from './compose.ts';

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

/** Work on pictures while files are read; the pool's version of it runs side by side. */
export interface PictureWork {
  compose(c: Composition): Promise<Uint8Array>;
  toPng(m: ToPng): Promise<Uint8Array>;
  toMetalRough(m: ToMetalRough): Promise<{ baseColor: Uint8Array; metallicRoughness: Uint8Array }>;
}

/** In this thread. */
export const HERE: PictureWork = {
  compose: composePicture,
  async toPng(m) {
    return rasterPng(await decodeImage(m.path, m.name, m.bytes, m.as));
  },
  async toMetalRough(m) {
    const read = async (p: ToMetalRough['diffuse']) => (p ? decodeImage(m.path, p.name, p.bytes, 'colour') : null);
    const maps = metallicRoughnessMaps(await read(m.diffuse), await read(m.specular), m.factors);
    return {
      baseColor: await rasterPng(maps.baseColor),
      metallicRoughness: await rasterPng(maps.metallicRoughness),
    };
  },
};

/** In the worker threads of a pool. */
export function pictureWork(pool: Pool): PictureWork {
  return {
    compose: (c) => pool.run('compose', c, decodingLimit(c.pictures.reduce((n, p) => n + p.bytes.length, 0))),
    toPng: (m) => pool.run('toPng', m, decodingLimit(m.bytes.length)),
    toMetalRough: (m) =>
      pool.run('toMetalRough', m, decodingLimit((m.diffuse?.bytes.length ?? 0) + (m.specular?.bytes.length ?? 0))),
  };
}
