import type { LiveMaps } from '../../../stage/live-sheet.ts';

/** Sides of a cell on which others lie. */
export const SIDES = ['left', 'right', 'above', 'below'] as const;
type Side = (typeof SIDES)[number];
export type Neighbours<T> = Readonly<Record<Side, T>>;

export const ALONE: Neighbours<null> = { left: null, right: null, above: null, below: null };

/** The cell so many steps to the right of and below another one: a column goes before a row; where nothing is said, the cell itself. */
export function cellAt<T>(own: T, around: Neighbours<T | null>, dx: number, dy: number): T {
  const column = dx < 0 ? around.left : dx > 0 ? around.right : null;
  const row = dy < 0 ? around.above : dy > 0 ? around.below : null;
  return column ?? row ?? own;
}

/** Which cell stands in a column and row of a table around a cell; others of another size are left out. */
export function cellsAround(
  own: LiveMaps,
  around: Neighbours<LiveMaps | null>,
  times: number,
): (column: number, row: number) => LiveMaps {
  const fitting = (maps: LiveMaps | null) => (maps?.width === own.width && maps.height === own.height ? maps : null);
  const fits = Object.fromEntries(SIDES.map((side) => [side, fitting(around[side])])) as Neighbours<LiveMaps | null>;
  const middle = Math.floor(times / 2);
  return (column, row) => cellAt(own, fits, column - middle, row - middle);
}

interface Bytes {
  subarray(from: number, to: number): Uint8Array | Uint8ClampedArray;
}

/** A table of pixels laid into one picture. @param at bytes of the cell in a column and row, all equally large */
export function joined(
  [width, height]: readonly [width: number, height: number],
  times: number,
  bytesPerPixel: number,
  at: (column: number, row: number) => Bytes,
): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(width * height * times * times * bytesPerPixel);
  const length = width * bytesPerPixel;
  for (let row = 0; row < times; row++)
    for (let column = 0; column < times; column++) {
      const cell = at(column, row);
      for (let y = 0; y < height; y++)
        out.set(cell.subarray(y * length, (y + 1) * length), ((row * height + y) * times + column) * length);
    }
  return out;
}

/** A flat normal; black. */
const FLAT = [128, 128, 255] as const;

function filled(pixels: number, rgb: readonly number[]): Uint8Array {
  const out = new Uint8Array(pixels * 3);
  for (let i = 0; i < out.length; i++) out[i] = rgb[i % 3];
  return out;
}

/** All maps of a cell in the middle of others, as one sheet. */
export function joinedMaps(own: LiveMaps, around: Neighbours<LiveMaps | null>, times: number): LiveMaps {
  const { width, height } = own;
  const cell = cellsAround(own, around, times);
  const all = [own, ...SIDES.flatMap((side) => around[side] ?? [])];
  const join = (bytes: number, of: (maps: LiveMaps) => Uint8Array) =>
    joined([width, height], times, bytes, (column, row) => of(cell(column, row)));
  const flat = filled(width * height, FLAT);
  const dark = new Uint8Array(width * height * 3);
  return {
    width: width * times,
    height: height * times,
    baseColor: join(4, (maps) => maps.baseColor),
    orm: join(3, (maps) => maps.orm),
    normal: all.some((maps) => maps.normal) ? join(3, (maps) => maps.normal ?? flat) : null,
    emissive: all.some((maps) => maps.emissive) ? join(3, (maps) => maps.emissive ?? dark) : null,
    emissiveStrength: Math.max(...all.map((maps) => maps.emissiveStrength)),
  };
}
