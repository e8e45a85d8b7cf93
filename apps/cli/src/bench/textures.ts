import { padSheet } from '@wembrel/core/bake/padding';
import { binTriangles, type SheetMaps, TransferScratch, transferTile } from '@wembrel/core/bake/transfer';
import type { BakeTriangles } from '@wembrel/core/bake/triangles';
import { levelSetBytes, toLevels } from '@wembrel/core/image/levels';
import type { Raster } from '@wembrel/core/image/raster';
import { DEFAULT_LOOK, READERS, type TextureUse } from '@wembrel/core/scene/material';
import { levelHome } from '@wembrel/kernels/sampler';
import { type BenchRow, inTurns, round, timesRow } from './turns.ts';

function picture(size: number): Raster {
  const data = new Uint8Array(size * size * 4);
  for (let i = 0, s = 1; i < data.length; i++) {
    s = (Math.imul(s, 1103515245) + 12345) | 0;
    data[i] = i % 4 === 3 ? 255 : s >>> 24;
  }
  return { width: size, height: size, bits: 8, data };
}

function emptyMaps(size: number): SheetMaps {
  return {
    width: size,
    height: size,
    baseColor: new Uint8Array(size * size * 4),
    orm: new Uint8Array(size * size * 3),
    normal: null,
    emissive: new Uint8Array(size * size * 3),
    emissiveStrength: 1,
    owner: new Uint32Array(size * size),
  };
}

/** Two triangles over the whole sheet that show each texture twice along each axis: 2:1 minified, 4×4 samples a texel. */
function wholeSheet(size: number): BakeTriangles {
  return {
    count: 2,
    place: Float64Array.of(0, 0, size, 0, size, size, 0, 0, size, size, 0, size),
    plot: Uint32Array.of(0, 0),
    sets: [0],
    uv: Float32Array.of(0, 0, 2, 0, 2, 2, 0, 0, 2, 2, 0, 2),
    color: null,
    frames: null,
  };
}

function copies(bytes: number): () => void {
  const a = new Uint8Array(bytes).fill(1);
  const b = new Uint8Array(bytes);
  return () => b.set(a);
}

/** Resampling and padding, as multiples of copying the same bytes. */
export function textureBenches(): BenchRow[] {
  const size = 1024;
  const raster = picture(size);
  const bytes = levelSetBytes(size, size, true);
  const set = (encoding: 'srgb' | 'linear', kernel: boolean) => {
    const home = kernel ? levelHome(bytes, READERS) : null;
    return { ...toLevels(raster, encoding, false, true, home?.memory.buffer ?? new ArrayBuffer(bytes)), home };
  };
  const use: TextureUse = {
    image: 'x',
    uvSet: 0,
    transform: [1, 0, 0, 1, 0, 0],
    wrapS: 10497,
    wrapT: 10497,
    nearest: false,
  };
  const maps = emptyMaps(size);
  const triangles = wholeSheet(size);
  const input = (kernel: boolean) => ({
    look: {
      ...DEFAULT_LOOK,
      baseColor: use,
      metallicRoughness: use,
      occlusion: use,
      emissive: use,
      emissiveFactor: [1, 1, 1] as [number, number, number],
    },
    textures: {
      baseColor: set('srgb', kernel),
      metallicRoughness: set('linear', kernel),
      occlusion: set('linear', kernel),
      emissive: set('srgb', kernel),
    },
    triangles,
    maps,
    samples: 16,
  });
  const lists = binTriangles(triangles, size, size);
  const bake = (kernel: boolean) => {
    const scratch = new TransferScratch();
    const baked = input(kernel);
    return () => {
      for (const [tile, list] of lists) transferTile(baked, tile, list, scratch);
    };
  };
  const kernel = bake(true);
  const transfer = inTurns(3, kernel, copies(size * size * 4 * 4));
  const plain = inTurns(3, kernel, bake(false));
  const dotted = () => {
    maps.owner.fill(0);
    for (let i = 0; i < maps.owner.length; i += 641) maps.owner[i] = 1 + (i % 7);
  };
  dotted();
  const pad = inTurns(5, () => padSheet(maps, 32), copies(size * size * 10));
  const texels = (ms: number) => round((size * size) / 1000 / ms);
  return [
    timesRow('resample 4 × 1024² at 16 samples', 'copying the same bytes', transfer, 'one thread, kernel'),
    timesRow('the same', 'without kernel', plain, 'one thread'),
    {
      name: 'the same, of all four maps',
      unit: 'million texels/s',
      ours: texels(plain.ours),
      reference: texels(plain.reference),
      against: 'without kernel',
      ratio: round(plain.reference / plain.ours),
    },
    timesRow('padding fill of 1024², all maps', 'copying the same bytes', pad, 'one thread, kernel, exact'),
  ];
}
