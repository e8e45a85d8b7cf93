import { padSheet } from '@wembrel/core/bake/padding';
import type { SheetMaps } from '@wembrel/core/bake/transfer';
import { type TransferInput, TransferScratch, transferTile } from '@wembrel/core/bake/transfer';
import { renderView, type ViewPictures } from '@wembrel/core/compare/rasterise';
import type { DrawScene } from '@wembrel/core/compare/scene';
import { analysePicture, type PictureAnalysis } from '@wembrel/core/image/analysis';
import { type Encoding, levelSetBytes, toLevels } from '@wembrel/core/image/levels';
import { type Difference, pictureDifference } from '@wembrel/core/image/metrics';
import { compareLikeness, type Likeness, type PictureSense } from '@wembrel/core/image/near-twin';
import { checkNormals, type NormalCheck } from '@wembrel/core/image/normal-direction';
import type { Raster } from '@wembrel/core/image/raster';
import { resizeRaster } from '@wembrel/core/image/resize';
import { shrinkMap } from '@wembrel/core/image/shrink';
import type { LevelSet } from '@wembrel/kernels/sample';
import { levelHome } from '@wembrel/kernels/sampler';
import { decodeImage, encodePng, pixelHash, thumbnail } from '../codec.ts';
import { rasterPng } from '../pictures/compose.ts';
import { HERE } from '../pictures/work.ts';
import { rayTasks } from '../rays/ray-tasks.ts';
import { type CancelFlag, stopped } from './hold.ts';
import { lookTasks } from './look-task.ts';

/**
 * What worker threads do. Each task is a function of its message; large data comes and goes in shared memory.
 */

export interface DecodedImage {
  /** Null when it was not asked for. */
  raster: Raster | null;
  size: { width: number; height: number; bits: 8 | 16 };
  pixelKey: string;
  analysis: PictureAnalysis;
}

const scratches = new Map<number, TransferScratch>();

function scratchOf(slot: number): TransferScratch {
  const scratch = scratches.get(slot) ?? new TransferScratch(slot);
  scratches.set(slot, scratch);
  return scratch;
}

/** Bytes of decoded pictures that a worker keeps for the next comparison. */
const RECENT_BYTES = 64 * 1024 ** 2;

const recent = {
  pictures: new Map<string, Raster>(),
  async take(path: string, p: { key: string; bytes: Uint8Array }): Promise<Raster> {
    const known = this.pictures.get(p.key);
    const raster = known ?? (await decodeImage(path, p.key.slice(0, 8), p.bytes));
    this.pictures.delete(p.key);
    this.pictures.set(p.key, raster);
    let sum = 0;
    for (const [key, r] of [...this.pictures].reverse()) {
      sum += r.data.byteLength;
      if (sum > RECENT_BYTES && key !== p.key) this.pictures.delete(key);
    }
    return raster;
  },
};

export const tasks = {
  ...HERE,
  ...rayTasks,
  ...lookTasks,

  /** Decodes an image, hashes its pixels and looks at them. */
  async decode(m: { path: string; name: string; bytes: Uint8Array; keep: boolean }): Promise<DecodedImage> {
    const raster = await decodeImage(m.path, m.name, m.bytes);
    const { width, height, bits } = raster;
    return {
      raster: m.keep ? raster : null,
      size: { width, height, bits },
      pixelKey: pixelHash(raster),
      analysis: analysePicture(raster),
    };
  },

  /** How alike two stored pictures are; those compared last stay decoded, since one picture is compared with several. */
  async likeness(m: {
    path: string;
    a: { key: string; bytes: Uint8Array };
    b: { key: string; bytes: Uint8Array };
    sense: PictureSense;
  }): Promise<Likeness> {
    const a = await recent.take(m.path, m.a);
    return compareLikeness(a, await recent.take(m.path, m.b), m.sense);
  },

  /** A smaller copy as PNG; one that is small enough keeps its size. */
  async resize(m: {
    path: string;
    name: string;
    bytes: Uint8Array;
    side: number;
    sense: PictureSense;
  }): Promise<Uint8Array> {
    const raster = await decodeImage(m.path, m.name, m.bytes);
    const k = Math.min(1, m.side / Math.max(raster.width, raster.height));
    const [w, h] = [Math.max(1, Math.round(raster.width * k)), Math.max(1, Math.round(raster.height * k))];
    return rasterPng(k < 1 ? resizeRaster(raster, w, h, m.sense) : raster);
  },

  /** What a picture that is used for normals says of itself. */
  async normals(m: { path: string; name: string; bytes: Uint8Array }): Promise<NormalCheck> {
    return checkNormals(await decodeImage(m.path, m.name, m.bytes));
  },

  /**
   * Builds the filtered form of a texture.
   * @param readers batches that will be read from it at one time by the kernel; 0: it is read without
   */
  async levels(m: {
    raster: Raster;
    encoding: Encoding;
    alphaWeighted: boolean;
    mips: boolean;
    readers: number;
  }): Promise<LevelSet> {
    const bytes = levelSetBytes(m.raster.width, m.raster.height, m.mips);
    const home = m.readers > 0 ? levelHome(bytes, m.readers) : null;
    const buffer = home?.memory.buffer ?? new SharedArrayBuffer(bytes);
    return { ...toLevels(m.raster, m.encoding, m.alphaWeighted, m.mips, buffer), home };
  },

  /** Takes tiles of one material from a shared counter until none is left. */
  async bakeTiles(m: {
    input: TransferInput;
    tiles: Uint32Array;
    lists: Uint32Array[];
    next: Int32Array;
    done: Int32Array;
    cancel: CancelFlag;
    /** Of this worker among those that bake the same. */
    slot: number;
  }): Promise<void> {
    const scratch = scratchOf(m.slot);
    for (;;) {
      const i = stopped(m.cancel) ? m.tiles.length : Atomics.add(m.next, 0, 1);
      if (i >= m.tiles.length) break;
      transferTile(m.input, m.tiles[i], m.lists[i], scratch);
      Atomics.add(m.done, 0, 1);
    }
    scratch.shader.close();
  },

  async pad(m: { maps: SheetMaps; padding: number }): Promise<void> {
    padSheet(m.maps, m.padding);
  },

  /** A map as PNG, at a fraction of its side. */
  async png(m: {
    data: Uint8Array;
    width: number;
    height: number;
    channels: 3 | 4;
    by: number;
    sense: PictureSense;
  }): Promise<Uint8Array> {
    const { data, width, height } = shrinkMap(m.data, m.width, m.height, m.channels, m.by, m.sense);
    return encodePng(data, width, height, m.channels);
  },

  /** A reduced PNG of a stored picture. */
  async thumbnail(m: { bytes: Uint8Array; side: number }): Promise<Uint8Array> {
    return thumbnail(m.bytes, m.side);
  },

  /** A model seen from front right, R G B A; alpha is the share of each pixel that it covers. */
  async modelPicture(m: {
    scene: DrawScene;
    textures: Map<string, LevelSet>;
    bounds: Float64Array[];
    size: number;
  }): Promise<Uint8Array> {
    const v = renderView(m.scene, m.textures, [0.55, 0.35, 1], m.bounds, m.size, false);
    const out = new Uint8Array(m.size * m.size * 4);
    for (let i = 0; i < m.size * m.size; i++) {
      for (let c = 0; c < 3; c++) out[i * 4 + c] = v.lit[i * 3 + c];
      out[i * 4 + 3] = v.coverage[i];
    }
    return out;
  },

  /** One view of the original and of the result, and how they differ. */
  async compareView(m: {
    original: DrawScene;
    result: DrawScene;
    originalTextures: Map<string, LevelSet>;
    resultTextures: Map<string, LevelSet>;
    eye: [number, number, number];
    bounds: Float64Array[];
    size: number;
  }): Promise<{ original: ViewPictures; result: ViewPictures; unlit: Difference; lit: Difference }> {
    const original = renderView(m.original, m.originalTextures, m.eye, m.bounds, m.size);
    const result = renderView(m.result, m.resultTextures, m.eye, m.bounds, m.size);
    return {
      original,
      result,
      unlit: pictureDifference(original.unlit, result.unlit, original.coverage, result.coverage, m.size),
      lit: pictureDifference(original.lit, result.lit, original.coverage, result.coverage, m.size),
    };
  },
};

export type Tasks = typeof tasks;
export type TaskName = keyof Tasks;
