import type { Texture } from '@gltf-transform/core';
import type { Encoding } from '@wembrel/core/image/levels';
import type { Raster } from '@wembrel/core/image/raster';
import type { Model } from '@wembrel/core/scene/model';
import { type ImageFacts, usedTextures } from '@wembrel/core/survey/figures';
import type { LevelSet } from '@wembrel/kernels/sample';
import type { Pool } from './pool/pool.ts';
import { imageKey } from './read/load.ts';

/** Bytes of decoded pictures that are kept; beyond it they are decoded again when needed. */
const KEEP_BYTES = 3 * 1024 ** 3;

interface Entry extends ImageFacts {
  flat: boolean;
  mean: [number, number, number];
  path: string;
  name: string;
  stored: Uint8Array;
  raster: Raster | null;
}

/** All images of a run, each decoded once and known by the hash of its stored bytes. */
export class Images {
  private readonly entries = new Map<string, Entry>();
  private kept = 0;

  constructor(private readonly pool: Pool) {}

  /**
   * Decodes the images of a model that are new.
   * @throws InputError when one cannot be decoded
   */
  async add(model: Model): Promise<void> {
    const fresh = new Map<string, { texture: Texture; name: string }>();
    for (const texture of usedTextures(model)) {
      const key = imageKey(texture);
      const name = texture.getName() || texture.getURI() || 'unnamed';
      if (!this.entries.has(key) && !fresh.has(key)) fresh.set(key, { texture, name });
    }
    await Promise.all(
      [...fresh].map(async ([key, { texture, name }]) => {
        const stored = texture.getImage() ?? new Uint8Array(0);
        const { raster, pixelKey, flat, mean } = await this.pool.run('decode', {
          path: model.path,
          name,
          bytes: stored,
        });
        const keep = this.kept + raster.data.byteLength <= KEEP_BYTES;
        if (keep) this.kept += raster.data.byteLength;
        this.entries.set(key, {
          pixelKey,
          width: raster.width,
          height: raster.height,
          bits: raster.bits,
          flat,
          mean,
          path: model.path,
          name,
          stored,
          raster: keep ? raster : null,
        });
      }),
    );
  }

  get facts(): ReadonlyMap<string, ImageFacts & { flat: boolean }> {
    return this.entries;
  }

  size(key: string): { width: number; height: number; flat: boolean } {
    const e = this.entries.get(key);
    if (!e) throw new Error(`image ${key} was not read`);
    return e;
  }

  pixelKey(key: string): string {
    return this.entries.get(key)?.pixelKey ?? key;
  }

  /** Facts of a picture by the hash of its pixels. */
  byPixels(pixelKey: string): { flat: boolean; mean: [number, number, number]; stored: Uint8Array } {
    for (const e of this.entries.values()) if (e.pixelKey === pixelKey) return e;
    throw new Error(`no image has the pixels ${pixelKey}`);
  }

  /** The filtered form of an image, built in a worker. */
  async levels(key: string, encoding: Encoding, alphaWeighted: boolean, mips: boolean): Promise<LevelSet> {
    const e = this.entries.get(key);
    if (!e) throw new Error(`image ${key} was not read`);
    const raster = e.raster ?? (await this.pool.run('decode', { path: e.path, name: e.name, bytes: e.stored })).raster;
    return this.pool.run('levels', { raster, encoding, alphaWeighted, mips });
  }
}
