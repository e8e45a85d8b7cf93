import { MAP_FORMS, type MapKind } from '../../decisions/map-kinds.ts';
import { encodeByte, linearToSrgb, srgbToLinear, unitByte } from '../../image/srgb.ts';
import { ditherAt } from './dither.ts';

/** Bits of a channel of a map. */
export type MapBits = 8 | 16 | 32;

/** A map of a ray bake in shared memory, channels interleaved, row 0 on top. Lengths (height) are floats, m; floats of colours are linear. */
export interface BakedMap {
  kind: MapKind;
  channels: 1 | 3;
  data: Uint8Array | Uint16Array | Float32Array;
}

/** Everything that is written for each texel of a sheet. */
export interface RayMaps {
  width: number;
  height: number;
  maps: BakedMap[];
  /** Number of the island that owns a texel; 0 outside. */
  island: Uint32Array;
  /** Pairing of each texel + 1; 0 outside. */
  pairing: Uint16Array;
  /** Triangle of the pairing's low-poly, where there is an island. */
  triangle: Uint32Array;
  /** Bits of `FAULT`. */
  faults: Uint8Array;
  /** Something was hit. */
  hit: Uint8Array;
  /** How far the high-poly lies above the casting surface, m; NaN where nothing was hit. */
  distance: Float32Array;
  /** Y of tangent normals runs down. */
  normalDown: boolean;
}

const bytesOf = (bits: MapBits, kind: MapKind): number =>
  MAP_FORMS[kind].holds === 'metres' ? 4 : MAP_FORMS[kind].holds === 'exact' ? 1 : bits / 8;

/** Bytes of the maps of one sheet. */
export const rayMapsBytes = (width: number, height: number, kinds: readonly MapKind[], bits: MapBits): number =>
  width * height * kinds.reduce((sum, k) => sum + MAP_FORMS[k].channels * bytesOf(bits, k), 4 + 2 + 4 + 1 + 1 + 4);

/** Maps that hold their background everywhere. */
export function emptyRayMaps(
  width: number,
  height: number,
  kinds: readonly MapKind[],
  bits: MapBits,
  normalDown: boolean,
): RayMaps {
  const n = width * height;
  const memory = (bytes: number) => new SharedArrayBuffer(bytes);
  const maps = kinds.map((kind): BakedMap => {
    const form = MAP_FORMS[kind];
    const { channels } = form;
    const size = bytesOf(bits, kind);
    const data =
      size === 4
        ? new Float32Array(memory(n * channels * 4))
        : size === 2
          ? new Uint16Array(memory(n * channels * 2))
          : new Uint8Array(memory(n * channels));
    const one = { kind, channels, data };
    const blank = form.background.map((v) => encodeValue(one, v));
    for (let c = 0; c < channels; c++) {
      if (blank[c] === 0) continue;
      for (let i = c; i < data.length; i += channels) data[i] = blank[c];
    }
    return one;
  });
  const distance = new Float32Array(memory(n * 4)).fill(Number.NaN);
  return {
    width,
    height,
    maps,
    island: new Uint32Array(memory(n * 4)),
    pairing: new Uint16Array(memory(n * 2)),
    triangle: new Uint32Array(memory(n * 4)),
    faults: new Uint8Array(memory(n)),
    hit: new Uint8Array(memory(n)),
    distance,
    normalDown,
  };
}

/** A value as stored, without dithering. */
export function encodeValue(map: BakedMap, v: number): number {
  const { holds } = MAP_FORMS[map.kind];
  if (map.data instanceof Float32Array) return v;
  const unit = holds === 'vector' ? v * 0.5 + 0.5 : v;
  if (map.data instanceof Uint8Array) return holds === 'srgb' ? encodeByte(unit) : unitByte(unit);
  const w = holds === 'srgb' ? linearToSrgb(unit) : unit;
  return w <= 0 ? 0 : w >= 1 ? 65535 : Math.floor(w * 65535 + 0.5);
}

/** The linear value, or part of a vector, that was stored. */
export function decodeValue(map: BakedMap, stored: number): number {
  if (map.data instanceof Float32Array) return stored;
  const unit = stored / (map.data instanceof Uint8Array ? 255 : 65535);
  const { holds } = MAP_FORMS[map.kind];
  if (holds === 'vector') return unit * 2 - 1;
  return holds === 'srgb' ? srgbToLinear(unit) : unit;
}

/**
 * Writes one texel of a map. Vectors are brought to length 1; smooth maps of 8 bits are dithered by a fixed pattern.
 * @param values as many as there are channels; exact colours 0 … 255
 */
export function writeTexel(out: RayMaps, map: BakedMap, x: number, y: number, values: Float64Array): void {
  const form = MAP_FORMS[map.kind];
  const o = (y * out.width + x) * map.channels;
  if (form.holds === 'exact') {
    for (let c = 0; c < map.channels; c++) map.data[o + c] = values[c];
    return;
  }
  let k = 1;
  if (form.holds === 'vector') {
    const l = Math.sqrt(values[0] ** 2 + values[1] ** 2 + values[2] ** 2);
    k = l > 0 ? 1 / l : 0;
  }
  const dithered = form.dithered && map.data instanceof Uint8Array;
  for (let c = 0; c < map.channels; c++) {
    let v = values[c] * k;
    if (c === 1 && out.normalDown && map.kind === 'normal') v = -v;
    if (!dithered) {
      map.data[o + c] = encodeValue(map, v);
      continue;
    }
    const unit = (form.holds === 'vector' ? v * 0.5 + 0.5 : v) * 255;
    // The ends stay clean: dithering black or white would only make them grey.
    const noise = unit <= 0 || unit >= 255 ? 0 : ditherAt(x, y, c);
    const b = Math.floor(unit + noise + 0.5);
    map.data[o + c] = b < 0 ? 0 : b > 255 ? 255 : b;
  }
}

/** How far high-polys lie above their low-polys at the least and at the most, m, by pairing; null where nothing was hit. */
export function heightsOf(
  { pairing, distance, hit }: Pick<RayMaps, 'pairing' | 'distance' | 'hit'>,
  pairings: number,
): ([number, number] | null)[] {
  const out: ([number, number] | null)[] = new Array(pairings).fill(null);
  for (let i = 0; i < pairing.length; i++) {
    if (pairing[i] === 0 || !hit[i] || Number.isNaN(distance[i])) continue;
    const range = out[pairing[i] - 1];
    if (!range) out[pairing[i] - 1] = [distance[i], distance[i]];
    else {
      range[0] = Math.min(range[0], distance[i]);
      range[1] = Math.max(range[1], distance[i]);
    }
  }
  return out;
}
