import type { PictureSense } from '../image/near-duplicate.ts';
import type { Raster } from '../image/raster.ts';
import { resizeRaster } from '../image/resize.ts';

export interface TileGrid {
  /** Sheet, px. */
  width: number;
  height: number;
  /** Side of a cell with its gutters, px. */
  cell: number;
  /** Width of the gutter on each side of a cell's picture, px. */
  gutter: number;
  columns: number;
  rows: number;
}

/**
 * The gutter that keeps mip k of a cell clean, px: bilinear filtering of box-filtered mips reaches 1.5 · 2^k px ("Margin, padding, mips").
 */
export function gutterForMip(mip: number): number {
  return mip < 0 ? 0 : Math.ceil(1.5 * 2 ** mip);
}

/** @throws Error with a sentence when there is no room for a picture in a cell, or for a cell on the sheet */
export function tileGrid(width: number, height: number, cell: number, gutter: number): TileGrid {
  const columns = Math.floor(width / cell);
  const rows = Math.floor(height / cell);
  if (columns < 1 || rows < 1) throw new Error(`cells of ${cell} px do not fit on ${width} × ${height} px`);
  if (cell - 2 * gutter < 1)
    throw new Error(
      `gutters of ${gutter} px leave no room in cells of ${cell} px: take larger cells or protect a lower mip`,
    );
  return { width, height, cell, gutter, columns, rows };
}

export interface Tile {
  name: string;
  raster: Raster;
}

/**
 * Draws tiles into their cells, row by row from the upper left, so that one added later moves none. A picture is brought to the size of its
 * cell without its gutters; the gutter goes on with the tile's repeat, or with its border texels.
 * @param around what lies in the gutters
 * @throws Error with a sentence when there are more tiles than cells
 */
export function drawTiles(
  tiles: readonly Tile[],
  grid: TileGrid,
  around: 'repeat' | 'edge',
  sense: PictureSense,
): { data: Uint8Array; width: number; height: number } {
  const { width, height, cell, gutter, columns, rows } = grid;
  if (tiles.length > columns * rows)
    throw new Error(
      `${tiles.length} tiles do not fit into ${columns * rows} cells: take a larger sheet or smaller cells`,
    );
  const side = cell - 2 * gutter;
  const data = new Uint8Array(width * height * 4);
  tiles.forEach(({ raster }, i) => {
    const r = raster.width === side && raster.height === side ? raster : resizeRaster(raster, side, side, sense);
    const [x0, y0] = [(i % columns) * cell, Math.floor(i / columns) * cell];
    for (let y = 0; y < cell; y++)
      for (let x = 0; x < cell; x++) {
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
  /** Upper left and size of the picture without gutters, px. */
  px: [number, number, number, number];
  /** Least and greatest U and V of the picture, V down. */
  uv: [number, number, number, number];
  /** The same with V up. */
  uvUp: [number, number, number, number];
}

export function tileRows(names: readonly string[], tileGrid: TileGrid): TileRow[] {
  const side = tileGrid.cell - 2 * tileGrid.gutter;
  return names.map((name, id) => {
    const [column, row] = [id % tileGrid.columns, Math.floor(id / tileGrid.columns)];
    const [x, y] = [column * tileGrid.cell + tileGrid.gutter, row * tileGrid.cell + tileGrid.gutter];
    return rectRow({ id, name, column, row, px: [x, y, side, side] }, tileGrid.width, tileGrid.height);
  });
}

/** A row with the rectangles that follow from its px. */
export function rectRow(r: Omit<TileRow, 'uv' | 'uvUp'>, width: number, height: number): TileRow {
  const [x, y, w, h] = r.px;
  const [u0, v0, u1, v1] = [x / width, y / height, (x + w) / width, (y + h) / height];
  return { ...r, uv: [u0, v0, u1, v1], uvUp: [u0, 1 - v1, u1, 1 - v0] };
}

const CSV_HEAD = 'id,name,column,row,x_px,y_px,width_px,height_px,u0,v0,u1,v1,v0_up,v1_up';

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
    ].join();
  return `${[CSV_HEAD, ...rows.map(line)].join('\n')}\n`;
}

/** Reads such a table again. @throws Error with the line that is wrong */
export function parseTileCsv(text: string): TileRow[] {
  const lines = text.split(/\r?\n/).filter((line) => line.trim() !== '');
  if (lines[0]?.trim() !== CSV_HEAD) throw new Error('line 1 does not name the columns of a tile table');
  return lines.slice(1).map((line, i) => {
    const found = /^(\d+),("(?:[^"]|"")*"|[^",]*),(.*)$/.exec(line);
    const n = found?.[3].split(',').map(Number) ?? [];
    if (!found || n.length !== 12 || n.some((v) => !Number.isFinite(v)))
      throw new Error(`line ${i + 2} is no line of a tile table`);
    const name = found[2].startsWith('"') ? found[2].slice(1, -1).replaceAll('""', '"') : found[2];
    const [column, row, x, y, w, h, u0, v0, u1, v1, up0, up1] = n;
    return {
      id: Number(found[1]),
      name,
      column,
      row,
      px: [x, y, w, h],
      uv: [u0, v0, u1, v1],
      uvUp: [u0, up0, u1, up1],
    };
  });
}
