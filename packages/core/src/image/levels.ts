import { fillLevels } from '@wembrel/kernels/level-builder';
import {
  buildLevels,
  type LevelHome,
  type LevelSet,
  levelCount,
  levelOffsets,
  levelSetLength,
} from '@wembrel/kernels/sample';
import type { Raster } from './raster.ts';
import { decodeTable } from './srgb.ts';

/** How a map's stored values become the numbers that are filtered. */
export type Encoding = 'srgb' | 'linear' | 'normal';

/** Bytes that the level set of a texture takes. */
export function levelSetBytes(width: number, height: number, withMips: boolean): number {
  return levelSetLength(width, height, withMips ? levelCount(width, height) : 1) * 4;
}

/** As `toLevels`, in a home where kernels can fill and read it; they do, for pictures of bytes with mips. */
export function toLevelsAt(
  home: LevelHome,
  raster: Raster,
  encoding: Encoding,
  alphaWeighted: boolean,
  withMips: boolean,
): LevelSet {
  const { width, height, data } = raster;
  const levels = levelCount(width, height);
  // The picture's bytes lie where the smaller levels will be.
  const hasRoom = levelSetBytes(width, height, true) >= width * height * 20;
  if (!(data instanceof Uint8Array) || !withMips || !hasRoom)
    return { ...toLevels(raster, encoding, alphaWeighted, withMips, home.memory.buffer), home };
  const set = {
    width,
    height,
    levels,
    offsets: levelOffsets(width, height, levels),
    data: new Float32Array(home.memory.buffer, 0, levelSetLength(width, height, levels)),
    alphaWeighted,
    home,
  };
  fillLevels(set, data, encoding, decodeTable(8));
  return set;
}

/**
 * The texture as floats ready for filtering: sRGB colour decoded to linear light, normals unpacked to −1 … 1 vectors (alpha
 * left), other data divided by the largest value. `alphaWeighted`: see `LevelSet`.
 *
 * @param buffer memory of `levelSetBytes` for the result
 */
export function toLevels(
  raster: Raster,
  encoding: Encoding,
  alphaWeighted: boolean,
  withMips: boolean,
  buffer: ArrayBufferLike,
): LevelSet {
  const { width, height, bits, data } = raster;
  const levels = withMips ? levelCount(width, height) : 1;
  const out = new Float32Array(buffer, 0, levelSetLength(width, height, levels));
  const unit = bits === 8 ? 1 / 255 : 1 / 65535;
  const n = width * height * 4;
  if (encoding === 'srgb') {
    const table = decodeTable(bits);
    for (let i = 0; i < n; i += 4) {
      out[i] = table[data[i]];
      out[i + 1] = table[data[i + 1]];
      out[i + 2] = table[data[i + 2]];
      out[i + 3] = data[i + 3] * unit;
    }
  } else if (encoding === 'normal') {
    for (let i = 0; i < n; i += 4) {
      out[i] = data[i] * unit * 2 - 1;
      out[i + 1] = data[i + 1] * unit * 2 - 1;
      out[i + 2] = data[i + 2] * unit * 2 - 1;
      out[i + 3] = 1;
    }
  } else {
    for (let i = 0; i < n; i++) out[i] = data[i] * unit;
  }
  const set: LevelSet = {
    width,
    height,
    levels,
    offsets: levelOffsets(width, height, levels),
    data: out,
    alphaWeighted,
  };
  if (withMips) buildLevels(set);
  return set;
}
