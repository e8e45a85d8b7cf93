import { padSheet } from '@wembrel/core/bake/padding';
import type { SheetMaps } from '@wembrel/core/bake/transfer';
import { type TransferInput, TransferScratch, transferTile } from '@wembrel/core/bake/transfer';
import { type Difference, pictureDifference } from '@wembrel/core/compare/metrics';
import { renderView, type ViewPictures } from '@wembrel/core/compare/rasterise';
import type { DrawScene } from '@wembrel/core/compare/scene';
import { type Encoding, levelSetBytes, toLevels } from '@wembrel/core/image/levels';
import type { Raster } from '@wembrel/core/image/raster';
import { channelRange, isExactlyFlat, meanColour } from '@wembrel/core/image/raster';
import type { LevelSet } from '@wembrel/kernels/sample';
import { decodeImage, encodePng, pixelHash, thumbnail } from '../codec.ts';

/**
 * What worker threads do. Each task is a function of its message; large data comes and goes in shared memory.
 */

/** Raised by the one who waits when the work shall stop. */
export type CancelFlag = Int32Array;

export interface DecodedImage {
  raster: Raster;
  pixelKey: string;
  flat: boolean;
  /** See `meanColour`. */
  mean: [number, number, number];
}

const scratch = new TransferScratch();

export const tasks = {
  /** Decodes an image and hashes its pixels. */
  async decode(m: { path: string; name: string; bytes: Uint8Array }): Promise<DecodedImage> {
    const raster = await decodeImage(m.path, m.name, m.bytes);
    return {
      raster,
      pixelKey: pixelHash(raster),
      flat: isExactlyFlat(channelRange(raster)),
      mean: meanColour(raster),
    };
  },

  /** Builds the filtered form of a texture. */
  async levels(m: { raster: Raster; encoding: Encoding; alphaWeighted: boolean; mips: boolean }): Promise<LevelSet> {
    const memory = new SharedArrayBuffer(levelSetBytes(m.raster.width, m.raster.height, m.mips));
    return toLevels(m.raster, m.encoding, m.alphaWeighted, m.mips, memory);
  },

  /** Takes tiles of one material from a shared counter until none is left. */
  async bakeTiles(m: {
    input: TransferInput;
    tiles: Uint32Array;
    lists: Uint32Array[];
    next: Int32Array;
    done: Int32Array;
    cancel: CancelFlag;
  }): Promise<void> {
    for (;;) {
      if (Atomics.load(m.cancel, 0) !== 0) return;
      const i = Atomics.add(m.next, 0, 1);
      if (i >= m.tiles.length) return;
      transferTile(m.input, m.tiles[i], m.lists[i], scratch);
      Atomics.add(m.done, 0, 1);
    }
  },

  async pad(m: { maps: SheetMaps; padding: number }): Promise<void> {
    padSheet(m.maps, m.padding);
  },

  async png(m: { data: Uint8Array; width: number; height: number; channels: 1 | 3 | 4 }): Promise<Uint8Array> {
    return encodePng(m.data, m.width, m.height, m.channels);
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
