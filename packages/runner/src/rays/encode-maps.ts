import { coverageMips } from '@wembrel/core/image/coverage-mips';
import type { BakedMap, RayMaps } from '@wembrel/core/rays/maps/baked-maps';
import { encodePng, encodePng16 } from '../pictures/codec.ts';
import { encodeExr } from '../pictures/write-exr.ts';
import { viewBytes } from './view-maps.ts';

/** A map as a file: PNG of 8 or 16 bit, EXR for lengths and what shall be floats. */
export async function encodeMap(
  maps: RayMaps,
  map: BakedMap,
): Promise<{ bytes: Uint8Array; ending: 'png' | 'exr'; bits: 8 | 16 | 32 }> {
  const { width, height } = maps;
  if (map.data instanceof Float32Array)
    return { bytes: await encodeExr(map.data, width, height, map.channels), ending: 'exr', bits: 32 };
  if (map.data instanceof Uint16Array)
    return { bytes: await encodePng16(map.data, width, height, map.channels), ending: 'png', bits: 16 };
  return { bytes: await encodePng(map.data, width, height, map.channels), ending: 'png', bits: 8 };
}

/** What alpha tests cut at, where nothing else is known. */
export const CUTOFF = 0.5;

/** The smaller levels of an opacity map as PNGs, 1 being half the side: at each the same share of texels passes an alpha test. */
export async function opacityLevels(maps: RayMaps, map: BakedMap): Promise<{ level: number; bytes: Uint8Array }[]> {
  const levels = coverageMips(viewBytes(maps, map), maps.width, maps.height, CUTOFF);
  return Promise.all(
    levels.map(async ({ data, width, height }, i) => ({
      level: i + 1,
      bytes: await encodePng(data, width, height, 1),
    })),
  );
}
