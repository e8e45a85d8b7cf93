import type { LevelSet } from '@wembrel/kernels/sample';
import type { MapCondition } from '../../decisions/recipe/condition.ts';
import type { IdMap } from './id-picture.ts';

/** A map of one channel at the size of the sheet: value = stored · scale + offset, filled beyond islands. */
export interface InputMap {
  data: Uint8Array | Uint16Array | Float32Array;
  scale: number;
  offset: number;
}

/** What is made or read for conditions before a recipe is evaluated. All arrays are shared memory and have one value a texel. */
export interface RecipeInputs {
  maps: Partial<Record<MapCondition, InputMap>>;
  /** Those that are baked under '', others by the file of their picture. */
  ids: Readonly<Record<string, IdMap>>;
  /** Distances to borders, mm, by the key of `distanceNeed`; not beyond what is asked for, negative inside of an ID. */
  distances: Readonly<Record<string, Float32Array>>;
  /** Mask pictures by file. */
  masks: Readonly<Record<string, LevelSet>>;
}

export const NO_INPUTS: RecipeInputs = { maps: {}, ids: {}, distances: {}, masks: {} };

/**
 * Reads a map between its texels.
 * @param x, y px of the sheet; what lies beyond its edge is the edge's, or the opposite one's where it wraps
 */
export function readMap(map: InputMap, size: readonly [number, number], x: number, y: number, wraps: boolean): number {
  const [width, height] = size;
  const u = x - 0.5;
  const v = y - 0.5;
  const xi = Math.floor(u);
  const yi = Math.floor(v);
  const ax = u - xi;
  const ay = v - yi;
  const x0 = within(xi, width, wraps);
  const x1 = within(xi + 1, width, wraps);
  const y0 = within(yi, height, wraps) * width;
  const y1 = within(yi + 1, height, wraps) * width;
  const { data } = map;
  const top = data[y0 + x0] * (1 - ax) + data[y0 + x1] * ax;
  const bottom = data[y1 + x0] * (1 - ax) + data[y1 + x1] * ax;
  return (top * (1 - ay) + bottom * ay) * map.scale + map.offset;
}

function within(i: number, n: number, wraps: boolean): number {
  if (i >= 0 && i < n) return i;
  if (wraps) return ((i % n) + n) % n;
  return i < 0 ? 0 : n - 1;
}

/** Position in a map of the texel in which a place lies. */
export function texelAt(size: readonly [number, number], x: number, y: number, wraps: boolean): number {
  return within(Math.floor(y), size[1], wraps) * size[0] + within(Math.floor(x), size[0], wraps);
}
