import { MAP_FORMS } from '@wembrel/core/decisions/map-kinds';
import { hexOf } from '@wembrel/core/image/hex';
import { linearToSrgb, unitByte } from '@wembrel/core/image/srgb';
import type { BakedMap, RayMaps } from '@wembrel/core/rays/maps/baked-maps';
import { FAULT } from '@wembrel/core/rays/maps/fault-kinds';
import { encodePng } from '../pictures/codec.ts';

/** R + 256 G + 65536 B as #rrggbb. */
export const hexColour = (c: number): string => hexOf([c & 255, (c >> 8) & 255, c >> 16]);

/** What a float of a map looks like, 0 … 1, not yet encoded. @param most greatest length of the map, m */
function shade(map: BakedMap, v: number, most: number): number {
  const { holds } = MAP_FORMS[map.kind];
  if (holds === 'metres') return 0.5 + v / (2 * most);
  if (holds === 'vector') return v * 0.5 + 0.5;
  return holds === 'srgb' ? linearToSrgb(v) : v;
}

/** A map as bytes to look at: 16 bits are halved, floats encoded, lengths of each pairing stretched from black (as deep as it is high) to white (highest). */
export function viewBytes(maps: RayMaps, map: BakedMap): Uint8Array {
  if (map.data instanceof Uint8Array) return map.data;
  const out = new Uint8Array(map.data.length);
  if (map.data instanceof Uint16Array) {
    for (let i = 0; i < out.length; i++) out[i] = Math.round(map.data[i] / 257);
    return out;
  }
  const most = map.channels === 1 ? greatestLengths(maps, map.data) : null;
  for (let i = 0; i < out.length; i++) out[i] = unitByte(shade(map, map.data[i], most?.[maps.pairing[i]] ?? 1));
  return out;
}

/** Greatest length of each pairing, at its number from 1 on; at 0 that of all, for what lies beside islands. */
function greatestLengths(maps: RayMaps, data: ArrayLike<number>): number[] {
  const most = [1e-12];
  for (let i = 0; i < data.length; i++) {
    if (!maps.hit[i]) continue;
    const length = Math.abs(data[i]);
    for (const at of [0, maps.pairing[i]]) most[at] = Math.max(most[at] ?? 1e-12, length);
  }
  return most;
}

/** A normal map with Y up, whatever way it was baked. */
export async function normalUpPng(maps: RayMaps, map: BakedMap): Promise<Uint8Array> {
  const bytes = viewBytes(maps, map).slice();
  if (maps.normalDown) for (let i = 1; i < bytes.length; i += 3) bytes[i] = 255 - bytes[i];
  return encodePng(bytes, maps.width, maps.height, 3);
}

/** A PNG of a map to look at. */
export async function viewPng(maps: RayMaps, map: BakedMap): Promise<Uint8Array> {
  return encodePng(viewBytes(maps, map), maps.width, maps.height, map.channels);
}

/** Base colour with opacity as its alpha, or null when either was not baked. */
export async function cutOutPng(maps: RayMaps): Promise<Uint8Array | null> {
  const find = (kind: string) => maps.maps.find((map) => map.kind === kind);
  const [color, opacity] = [find('color') ?? find('vertex-color'), find('opacity')];
  if (!color || !opacity) return null;
  const [rgb, alpha] = [viewBytes(maps, color), viewBytes(maps, opacity)];
  const out = new Uint8Array(alpha.length * 4);
  for (let i = 0; i < alpha.length; i++) {
    for (let c = 0; c < 3; c++) out[i * 4 + c] = rgb[i * 3 + c];
    out[i * 4 + 3] = alpha[i];
  }
  return encodePng(out, maps.width, maps.height, 4);
}

/** Roughness in G and metallic in B, or null when neither was baked. */
export async function metalRoughPng(maps: RayMaps): Promise<Uint8Array | null> {
  const find = (kind: string) => {
    const map = maps.maps.find((map) => map.kind === kind);
    return map ? viewBytes(maps, map) : null;
  };
  const [rough, metal] = [find('roughness'), find('metallic')];
  if (!rough && !metal) return null;
  const out = new Uint8Array(maps.width * maps.height * 3).fill(255);
  for (let i = 0; i < maps.width * maps.height; i++) {
    out[i * 3 + 1] = rough ? rough[i] : 153;
    out[i * 3 + 2] = metal ? metal[i] : 0;
  }
  return encodePng(out, maps.width, maps.height, 3);
}

/** What is baked so far as R G B A, reduced by whole steps to at most `side`; clear where nothing is. */
export function previewBytes(maps: RayMaps, side: number): { data: Uint8Array; width: number; height: number } {
  const step = Math.max(1, Math.floor(Math.max(maps.width, maps.height) / side));
  const [width, height] = [Math.floor(maps.width / step), Math.floor(maps.height / step)];
  const data = new Uint8Array(width * height * 4);
  const [map] = maps.maps;
  const full = map.data instanceof Uint16Array ? 257 : 1;
  const encode = (v: number) => (map.data instanceof Float32Array ? 255 * shade(map, v, 1) : v / full);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * step * maps.width + x * step;
      const o = (y * width + x) * 4;
      for (let c = 0; c < 3; c++) data[o + c] = encode(map.data[i * map.channels + (map.channels === 1 ? 0 : c)]);
      data[o + 3] = maps.hit[i] ? 255 : 0;
    }
  return { data, width, height };
}

/** Vermilion, violet, ochre: missed, stray, skewed; white for clashes, black for thin margins; clear elsewhere. */
const FAULT_INK: readonly [number, readonly [number, number, number, number]][] = [
  [FAULT.clash, [255, 255, 255, 235]],
  [FAULT.missed, [214, 62, 20, 255]],
  [FAULT.stray, [120, 40, 190, 230]],
  [FAULT.skewed, [222, 170, 40, 130]],
  [FAULT.thin, [0, 0, 0, 200]],
];

/** Where faults are, to be laid over a map. */
export async function faultPng(maps: RayMaps): Promise<Uint8Array> {
  const out = new Uint8Array(maps.width * maps.height * 4);
  for (let i = 0; i < maps.faults.length; i++) {
    if (maps.faults[i] === 0) continue;
    const ink = FAULT_INK.find(([bit]) => maps.faults[i] & bit);
    if (ink) out.set(ink[1], i * 4);
  }
  return encodePng(out, maps.width, maps.height, 4);
}
