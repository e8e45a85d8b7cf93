import { rectRow, type TileRow } from '../tiles/tile-sheet.ts';
import type { Manifest } from './manifest.ts';

/**
 * The cells of a tile sheet that was handed over, in their order, called after their slots; numbers are those of places on the grid, so that
 * cells that are added later move no meaning.
 */
export function tileTable({ width, height, settings, bays }: Manifest['sheets'][number]): TileRow[] {
  const { cell } = settings;
  const columns = Math.floor(width / cell);
  return bays
    .filter((bay) => bay.form === 'cell')
    .map(({ slot, px }) => {
      const [column, row] = [Math.floor(px[0] / cell), Math.floor(px[1] / cell)];
      return rectRow({ id: row * columns + column, name: slot, column, row, px }, width, height);
    })
    .sort((a, b) => a.id - b.id);
}
