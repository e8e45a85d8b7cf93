import { analysePicture, type PictureAnalysis } from '@wembrel/core/image/analysis';
import { type Encoding, levelSetBytes, toLevels, toLevelsAt } from '@wembrel/core/image/levels';
import {
  type ComparedPicture,
  comparedPicture,
  compareLikeness,
  type Likeness,
  type PictureSense,
} from '@wembrel/core/image/near-duplicate';
import { checkNormals, type NormalCheck } from '@wembrel/core/image/normal-direction';
import type { Raster } from '@wembrel/core/image/raster';
import { resizeRaster } from '@wembrel/core/image/resize';
import { shrinkMap } from '@wembrel/core/image/shrink';
import type { LevelHome, LevelSet } from '@wembrel/kernels/sample';
import { levelHome } from '@wembrel/kernels/sampler';
import { taskGroup } from '../pool/task.ts';
import { decodeImage, encodePng, pixelHash, thumbnail } from './codec.ts';
import { rasterPng } from './compose.ts';

export interface DecodedImage {
  /** Null when it was not asked for. */
  raster: Raster | null;
  size: { width: number; height: number; bits: 8 | 16 };
  pixelKey: string;
  analysis: PictureAnalysis;
}

/** Bytes of pictures that a worker keeps for the next comparison. */
const RECENT_BYTES = 64 * 1024 ** 2;

const recent = {
  pictures: new Map<string, ComparedPicture>(),
  async take(path: string, { key, bytes }: { key: string; bytes: Uint8Array }): Promise<ComparedPicture> {
    const known = this.pictures.get(key);
    const picture = known ?? comparedPicture(await decodeImage(path, key.slice(0, 8), bytes));
    this.pictures.delete(key);
    this.pictures.set(key, picture);
    let sum = 0;
    for (const [name, { data }] of [...this.pictures].reverse()) {
      sum += data.byteLength;
      if (sum > RECENT_BYTES && name !== key) this.pictures.delete(name);
    }
    return picture;
  },
};

/** What worker threads do with pictures. */
export const pictureTasks = taskGroup('picture', {
  /** Decodes an image, hashes its pixels and looks at them. */
  async decode(input: { path: string; name: string; bytes: Uint8Array; keep: boolean }): Promise<DecodedImage> {
    const raster = await decodeImage(input.path, input.name, input.bytes);
    const { width, height, bits } = raster;
    return {
      raster: input.keep ? raster : null,
      size: { width, height, bits },
      pixelKey: pixelHash(raster),
      analysis: analysePicture(raster),
    };
  },

  /** Decodes an image that was looked at before. */
  async pixels(input: { path: string; name: string; bytes: Uint8Array }): Promise<Raster> {
    return decodeImage(input.path, input.name, input.bytes);
  },

  /** How alike two stored pictures are; those compared last stay decoded, since one picture is compared with several. */
  async likeness(input: {
    path: string;
    a: { key: string; bytes: Uint8Array };
    b: { key: string; bytes: Uint8Array };
    sense: PictureSense;
  }): Promise<Likeness> {
    const picture = await recent.take(input.path, input.a);
    return compareLikeness(picture, await recent.take(input.path, input.b), input.sense);
  },

  /** A smaller copy as PNG; one that is small enough keeps its size. */
  async resize(input: {
    path: string;
    name: string;
    bytes: Uint8Array;
    side: number;
    sense: PictureSense;
  }): Promise<Uint8Array> {
    const raster = await decodeImage(input.path, input.name, input.bytes);
    const k = Math.min(1, input.side / Math.max(raster.width, raster.height));
    const [w, h] = [Math.max(1, Math.round(raster.width * k)), Math.max(1, Math.round(raster.height * k))];
    return rasterPng(k < 1 ? resizeRaster(raster, w, h, input.sense) : raster);
  },

  /** What a picture that is used for normals says of itself. */
  async normals(input: { path: string; name: string; bytes: Uint8Array }): Promise<NormalCheck> {
    return checkNormals(await decodeImage(input.path, input.name, input.bytes));
  },

  /**
   * Builds the filtered form of a texture.
   * @param readers batches that will be read from it at one time by the kernel; 0: it is read without
   */
  async levels(input: {
    raster: Raster;
    encoding: Encoding;
    alphaWeighted: boolean;
    mips: boolean;
    readers: number;
    /** Memory of that size which nobody needs any more; null: it is made. */
    home: LevelHome | null;
  }): Promise<LevelSet> {
    const bytes = levelSetBytes(input.raster.width, input.raster.height, input.mips);
    const home = input.home ?? (input.readers > 0 ? levelHome(bytes, input.readers) : null);
    const { raster, encoding, alphaWeighted, mips } = input;
    if (home) return toLevelsAt(home, raster, encoding, alphaWeighted, mips);
    return { ...toLevels(raster, encoding, alphaWeighted, mips, new SharedArrayBuffer(bytes)), home };
  },

  /** A map as PNG, at a fraction of its side. */
  async png(input: {
    data: Uint8Array;
    width: number;
    height: number;
    channels: 3 | 4;
    by: number;
    sense: PictureSense;
  }): Promise<Uint8Array> {
    const { data, width, height } = shrinkMap(
      input.data,
      input.width,
      input.height,
      input.channels,
      input.by,
      input.sense,
    );
    return encodePng(data, width, height, input.channels);
  },

  /** A reduced PNG of a stored picture. */
  async thumbnail(input: { bytes: Uint8Array; side: number }): Promise<Uint8Array> {
    return thumbnail(input.bytes, input.side);
  },
});
