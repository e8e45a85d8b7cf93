import type { LevelSet } from '@wembrel/kernels/sample';
import type { ImageChannel, MaterialLook } from '../scene/material.ts';
import type { BakeTriangles } from './triangles.ts';

/** The maps of a sheet in shared memory, three or four bytes a texel; `owner` is plot id + 1 (see `BEYOND`), 0 where there is no island. */
export interface SheetMaps {
  width: number;
  height: number;
  /** R G B A, sRGB colour. */
  baseColor: Uint8Array;
  /** Occlusion, roughness, metallic. */
  orm: Uint8Array;
  normal: Uint8Array | null;
  /** sRGB, times `emissiveStrength`. */
  emissive: Uint8Array | null;
  emissiveStrength: number;
  owner: Uint32Array;
}

export interface TransferInput {
  look: MaterialLook;
  textures: Partial<Record<ImageChannel, LevelSet>>;
  triangles: BakeTriangles;
  maps: SheetMaps;
  /** Samples per texel in all where the source is minified. */
  samples: number;
}
