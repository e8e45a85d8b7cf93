import type { PictureSense } from '../image/near-duplicate.ts';
import type { Raster } from '../image/raster.ts';
import { resizeRaster } from '../image/resize.ts';

export interface TileGrid {
  /** Sheet, px. */
  width: number;
  height: number;
  /** Side of the picture in a cell, px. */
  cell: number;
  /** Padding on each side of a cell's picture, px; it comes on top. */
  gutter: number;
  /** From one cell to the next, px. */
  pitch: number;
  columns: number;
  rows: number;
}

/**
 * The padding that keeps mip k of a cell clean, px: bilinear filtering of box-filtered mips reaches 1.5 · 2^k px ("Margin, padding, mips").
 */
export function gutterForMip(mip: number): number {
  return mip < 0 ? 0 : Math.ceil(1.5 * 2 ** mip);
}

/** @throws Error with a sentence when there is no room for a cell on the sheet */
export function tileGrid(width: number, height: number, cell: number, gutter: number): TileGrid {
  const pitch = cell + 2 * gutter;
  const [columns, rows] = [Math.floor(width / pitch), Math.floor(height / pitch)];
  if (columns < 1 || rows < 1)
    throw new Error(`a cell of ${cellTitle({ cell, gutter })} does not fit on ${width} × ${height} px`);
  return { width, height, cell, gutter, pitch, columns, rows };
}

/** A cell in words: its picture and its padding. */
const cellTitle = ({ cell, gutter }: Pick<TileGrid, 'cell' | 'gutter'>): string => `${cell} px + 2 × ${gutter} px`;

/** The least power of two, px, whose square holds so many cells. */
export function sheetSideFor(count: number, cell: number, gutter: number): number {
  let side = 1;
  while (Math.floor(side / (cell + 2 * gutter)) ** 2 < Math.max(1, count)) side *= 2;
  return side;
}

export interface Tile {
  name: string;
  raster: Raster;
}

/**
 * Draws tiles into their cells, row by row from the upper left, so that one added later moves none. A picture as large as its
 * cell lies in it texel by texel, others are brought to its size; the padding goes on with the tile's repeat, or with its border texels.
 * @param around what lies in the padding
 * @throws Error with a sentence when there are more tiles than cells
 */
export function drawTiles(
  tiles: readonly Tile[],
  grid: TileGrid,
  around: 'repeat' | 'edge',
  sense: PictureSense,
): { data: Uint8Array; width: number; height: number } {
  const { width, height, cell: side, gutter, pitch, columns, rows } = grid;
  if (tiles.length > columns * rows)
    throw new Error(
      `${tiles.length} tiles do not fit into ${columns * rows} cells of ${cellTitle(grid)}: take a sheet of ${sheetSideFor(tiles.length, side, gutter)} px or smaller cells`,
    );
  const data = new Uint8Array(width * height * 4);
  tiles.forEach(({ raster }, i) => {
    const r = raster.width === side && raster.height === side ? raster : resizeRaster(raster, side, side, sense);
    const [x0, y0] = [(i % columns) * pitch, Math.floor(i / columns) * pitch];
    for (let y = 0; y < pitch; y++)
      for (let x = 0; x < pitch; x++) {
        const from = (within(y - gutter, side, around) * side + within(x - gutter, side, around)) * 4;
        const to = ((y0 + y) * width + x0 + x) * 4;
        for (let k = 0; k < 4; k++) data[to + k] = r.bits === 8 ? r.data[from + k] : Math.round(r.data[from + k] / 257);
      }
  });
  return { data, width, height };
}

function within(i: number, side: number, around: 'repeat' | 'edge'): number {
  if (around === 'edge') return Math.min(side - 1, Math.max(0, i));
  return ((i % side) + side) % side;
}

/** One cell as tables name it. */
export interface TileRow {
  id: number;
  name: string;
  column: number;
  row: number;
  /** Upper left and size of the picture without its padding, px. */
  px: [number, number, number, number];
  /** Least and greatest U and V of the picture, V down. */
  uv: [number, number, number, number];
  /** The same with V up. */
  uvUp: [number, number, number, number];
  /** What it is a face of, and which; null for a tile by itself. */
  block: string | null;
  role: string | null;
  /** Axes along which it may be mirrored without being seen to be. */
  flips: TileFlips;
}

export const TILE_FLIPS = ['', 'u', 'v', 'uv'] as const;
type TileFlips = (typeof TILE_FLIPS)[number];

/** Roles that tiles have by their names: "kerb_top" is the top of a kerb. */
const FACE_ROLES = ['side', 'top', 'bottom'] as const;

/** What is said of a tile besides its name. */
export interface TileTraits {
  /** Roles by tile, besides those by name; any word. */
  roles: ReadonlyMap<string, string>;
  flips: ReadonlyMap<string, TileFlips>;
}

const NO_TRAITS: TileTraits = { roles: new Map(), flips: new Map() };

/** What a tile is a face of: its name up to its role. */
export function blockOf(
  name: string,
  roles: TileTraits['roles'] = NO_TRAITS.roles,
): { block: string | null; role: string | null } {
  const role = roles.get(name) ?? FACE_ROLES.find((face) => name.toLowerCase().endsWith(`_${face}`));
  if (role === undefined) return { block: null, role: null };
  const ending = `_${role}`;
  const block = name.toLowerCase().endsWith(ending.toLowerCase()) ? name.slice(0, -ending.length) : name;
  return { block: block || name, role };
}

/** Faces of blocks by role, in the order of their tiles. */
export function blocksOf(rows: readonly TileRow[]): { name: string; faces: Record<string, number> }[] {
  const blocks = new Map<string, Map<string, number>>();
  for (const { id, block, role } of rows)
    if (block !== null && role !== null) blocks.set(block, (blocks.get(block) ?? new Map()).set(role, id));
  return [...blocks].map(([name, faces]) => ({ name, faces: Object.fromEntries(faces) }));
}

export function tileRows(names: readonly string[], tileGrid: TileGrid, traits: TileTraits = NO_TRAITS): TileRow[] {
  const { cell: side, gutter, pitch } = tileGrid;
  return names.map((name, id) => {
    const [column, row] = [id % tileGrid.columns, Math.floor(id / tileGrid.columns)];
    const [x, y] = [column * pitch + gutter, row * pitch + gutter];
    const own = { ...blockOf(name, traits.roles), flips: traits.flips.get(name) ?? '' };
    return rectRow({ id, name, column, row, px: [x, y, side, side], ...own }, tileGrid.width, tileGrid.height);
  });
}

/** A row with the rectangles that follow from its px. */
export function rectRow(r: Omit<TileRow, 'uv' | 'uvUp'>, width: number, height: number): TileRow {
  const [x, y, w, h] = r.px;
  const [u0, v0, u1, v1] = [x / width, y / height, (x + w) / width, (y + h) / height];
  return { ...r, uv: [u0, v0, u1, v1], uvUp: [u0, 1 - v1, u1, 1 - v0] };
}

const CSV_HEAD = 'id,name,column,row,x_px,y_px,width_px,height_px,u0,v0,u1,v1,v0_up,v1_up,flips,role,block';

/** The table as CSV; names with commas or quotes are quoted. */
export function tileCsv(rows: readonly TileRow[]): string {
  const quoted = (text: string) => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  const line = (tileRow: TileRow) =>
    [
      tileRow.id,
      quoted(tileRow.name),
      tileRow.column,
      tileRow.row,
      ...tileRow.px,
      ...tileRow.uv,
      tileRow.uvUp[1],
      tileRow.uvUp[3],
      tileRow.flips,
      quoted(tileRow.role ?? ''),
      quoted(tileRow.block ?? ''),
    ].join();
  return `${[CSV_HEAD, ...rows.map(line)].join('\n')}\n`;
}

/** Reads such a table again. @throws Error with the line that is wrong */
export function parseTileCsv(text: string): TileRow[] {
  const lines = text.split(/\r?\n/).filter((line) => line.trim() !== '');
  if (lines[0]?.trim() !== CSV_HEAD) throw new Error('line 1 does not name the columns of a tile table');
  return lines.slice(1).map((line, i) => {
    const found = CSV_LINE.exec(line)?.groups;
    const n = found?.numbers.split(',').map(Number) ?? [];
    if (!found || n.length !== 12 || n.some((v) => !Number.isFinite(v)))
      throw new Error(`line ${i + 2} is no line of a tile table`);
    const plain = (text: string) => (text.startsWith('"') ? text.slice(1, -1).replaceAll('""', '"') : text);
    const [column, row, x, y, w, h, u0, v0, u1, v1, up0, up1] = n;
    return {
      id: Number(found.id),
      name: plain(found.name),
      column,
      row,
      px: [x, y, w, h],
      uv: [u0, v0, u1, v1],
      uvUp: [u0, up0, u1, up1],
      flips: found.flips as TileFlips,
      role: plain(found.role) || null,
      block: plain(found.block) || null,
    };
  });
}

const TEXT = '"(?:[^"]|"")*"|[^",]*';
const CSV_LINE = new RegExp(
  `^(?<id>\\d+),(?<name>${TEXT}),(?<numbers>[-\\d.e,]*),(?<flips>|u|v|uv),(?<role>${TEXT}),(?<block>${TEXT})$`,
);
