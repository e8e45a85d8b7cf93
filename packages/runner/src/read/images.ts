import type { Texture } from '@gltf-transform/core';
import type { PictureAnalysis } from '@wembrel/core/image/analysis';
import { type Encoding, levelSetBytes } from '@wembrel/core/image/levels';
import type { Raster } from '@wembrel/core/image/raster';
import type { Pictures } from '@wembrel/core/plan/route';
import type { Model } from '@wembrel/core/scene/model';
import { type ImageFacts, usedTextures } from '@wembrel/core/survey/figures';
import type { LevelSet } from '@wembrel/kernels/sample';
import { batchesAt } from '@wembrel/kernels/sampler';
import { type DecodedImage, pictureTasks } from '../pictures/picture-tasks.ts';
import { decodingLimit, type JobScope } from '../pool/job-scope.ts';
import { imageKey } from './image-keys.ts';
import { LevelPool } from './level-pool.ts';

/** Bytes of decoded pictures that are kept; beyond it they are decoded again when needed. */
const KEEP_BYTES = 3 * 1024 ** 3;

interface Entry extends ImageFacts, PictureAnalysis {
  path: string;
  name: string;
  stored: Uint8Array;
  raster: Raster | null;
  decoding: Promise<Raster> | null;
}

/** What the cache keeps of a picture, by the hash of its stored bytes. */
type KnownPicture = Omit<DecodedImage, 'raster'>;

/** All images of a run, each decoded once and known by the hash of its stored bytes. */
export class Images {
  private readonly entries = new Map<string, Entry>();
  private readonly pending = new Map<string, Promise<void>>();
  private readonly pixels = new Map<string, Entry>();
  private readonly pool = new LevelPool();
  private kept = 0;

  /** @param keepBytes decoded pictures that are kept, in bytes; a survey alone needs none */
  constructor(
    private readonly scope: JobScope,
    private readonly keepBytes = KEEP_BYTES,
  ) {}

  /**
   * Decodes the images of a model that are new.
   * @throws InputError when one cannot be decoded
   */
  async add(model: Model): Promise<void> {
    await Promise.all(
      usedTextures(model).map((texture) => {
        const key = imageKey(texture);
        const known = this.pending.get(key);
        if (known) return known;
        const work = this.decode(model.path, key, texture);
        this.pending.set(key, work);
        return work;
      }),
    );
  }

  private async decode(path: string, key: string, texture: Texture): Promise<void> {
    const name = texture.getName() || texture.getURI() || 'unnamed';
    const stored = texture.getImage() ?? new Uint8Array(0);
    const wanted = this.kept < this.keepBytes;
    const known = await this.scope.cache?.get<KnownPicture>('picture', key);
    const { raster, ...found } = known
      ? { raster: null, ...known }
      : await this.scope.run(
          pictureTasks.decode,
          { path, name, bytes: stored, keep: wanted },
          decodingLimit(stored.length),
        );
    if (!known) await this.scope.cache?.put('picture', key, found satisfies KnownPicture);
    if (raster) this.kept += raster.data.byteLength;
    const entry = {
      pixelKey: found.pixelKey,
      ...found.size,
      ...found.analysis,
      path,
      name,
      stored,
      raster,
      decoding: null,
    };
    this.entries.set(key, entry);
    if (!this.pixels.has(entry.pixelKey)) this.pixels.set(entry.pixelKey, entry);
  }

  get facts(): ReadonlyMap<string, ImageFacts & PictureAnalysis> {
    return this.entries;
  }

  /** What routes read of a picture. */
  readonly pictures: Pictures = {
    key: (i) => this.pixelKey(i),
    flat: (i) => this.size(i).flat,
    size: (i) => this.size(i),
  };

  size(key: string): { width: number; height: number; flat: boolean; usefulSide: number } {
    const entry = this.entries.get(key);
    if (!entry) throw new Error(`image ${key} was not read`);
    return entry;
  }

  pixelKey(key: string): string {
    return this.entries.get(key)?.pixelKey ?? key;
  }

  /** See `PictureAnalysis.flatCells`. */
  flatCells(key: string): Uint8Array | null {
    return this.entries.get(key)?.flatCells ?? null;
  }

  knows(pixelKey: string): boolean {
    return this.pixels.has(pixelKey);
  }

  /** Facts of a picture by the hash of its pixels. */
  byPixels(pixelKey: string): Readonly<Entry> {
    const entry = this.pixels.get(pixelKey);
    if (!entry) throw new Error(`no image has the pixels ${pixelKey}`);
    return entry;
  }

  /** The filtered form of an image, built in a worker. @param readers see the task */
  async levels(key: string, encoding: Encoding, alphaWeighted: boolean, mips: boolean, readers = 0): Promise<LevelSet> {
    const entry = this.entries.get(key);
    if (!entry) throw new Error(`image ${key} was not read`);
    const raster = await this.rasterOf(entry);
    const at = batchesAt(levelSetBytes(raster.width, raster.height, mips));
    const home = readers > 0 ? this.pool.take(at, readers) : null;
    return this.scope.run(pictureTasks.levels, { raster, encoding, alphaWeighted, mips, readers, home });
  }

  /** No more sets will be built. */
  forgetLevels(): void {
    this.pool.clear();
  }

  /** Sets that nobody reads any more: the next ones may lie where they lie. */
  giveBack(sets: Iterable<LevelSet>): void {
    for (const set of sets) this.pool.giveBack(set);
  }

  /** The decoded picture, which is kept where there is room. Who asks while it is decoded gets the same. */
  private rasterOf(entry: Entry): Promise<Raster> {
    if (entry.raster) return Promise.resolve(entry.raster);
    const { path, name, stored } = entry;
    entry.decoding ??= this.scope
      .run(pictureTasks.pixels, { path, name, bytes: stored }, decodingLimit(stored.length))
      .then((raster) => {
        entry.decoding = null;
        if (this.kept < this.keepBytes) {
          entry.raster = raster;
          this.kept += raster.data.byteLength;
        }
        return raster;
      });
    return entry.decoding;
  }
}
