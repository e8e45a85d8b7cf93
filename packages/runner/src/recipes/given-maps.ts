import { MAP_FORMS, type MapKind } from '@wembrel/core/decisions/map-kinds';
import { InputError } from '@wembrel/core/errors';
import { stem } from '@wembrel/core/handover/names';
import type { Raster } from '@wembrel/core/image/raster';
import { resizeRaster } from '@wembrel/core/image/resize';
import type { BakedMap } from '@wembrel/core/rays/maps/baked-maps';
import { plainName } from '@wembrel/core/survey/assign-textures';
import type { InputFile } from '../read/collect.ts';
import type { Looks } from './looks.ts';

/**
 * Maps of a model that were baked before, from pictures that are called after it: MODEL_curvature, MODEL_ao and so on. Heights have no known depth in a picture, and
 * are not taken.
 * @param side of the sheet, px @throws InputError where one of the kinds is not there
 */
export async function givenMaps(
  model: string,
  kinds: readonly MapKind[],
  files: readonly InputFile[],
  side: number,
  looks: Looks,
): Promise<BakedMap[]> {
  const out: BakedMap[] = [];
  for (const kind of kinds) {
    const wanted = plainName(`${stem(model)}_${kind}`);
    const file = files.find(({ name }) => plainName(stem(name)) === wanted);
    if (!file || kind === 'height')
      throw new InputError(
        model,
        `the recipe reads its ${kind}, and no picture called ${stem(model)}_${kind} was given`,
      );
    const decoded = await looks.decoded(file);
    out.push(kind === 'id' ? idMap(decoded, side) : valueMap(kind, decoded, side));
  }
  return out;
}

/** IDs are never mixed: each texel takes the one under its middle. */
function idMap({ width, height, bits, data }: Raster, side: number): BakedMap {
  const out = new Uint8Array(new SharedArrayBuffer(side * side * 3));
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const i = (Math.floor(((y + 0.5) * height) / side) * width + Math.floor(((x + 0.5) * width) / side)) * 4;
      for (let c = 0; c < 3; c++) out[(y * side + x) * 3 + c] = bits === 8 ? data[i + c] : data[i + c] >> 8;
    }
  return { kind: 'id', channels: 3, data: out };
}

function valueMap(kind: MapKind, raster: Raster, side: number): BakedMap {
  const sized = resizeRaster(raster, side, side, 'data');
  const { channels } = MAP_FORMS[kind];
  const out = new Uint16Array(new SharedArrayBuffer(side * side * channels * 2));
  const scale = raster.bits === 8 ? 257 : 1;
  for (let i = 0; i < side * side; i++)
    for (let c = 0; c < channels; c++) out[i * channels + c] = sized.data[i * 4 + c] * scale;
  return { kind, channels, data: out };
}
