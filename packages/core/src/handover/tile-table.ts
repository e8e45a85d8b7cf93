import { cellPadding } from '../layout/whole-bays.ts';
import { blockOf, rectRow, type TileRow } from '../tiles/tile-sheet.ts';
import type { Manifest } from './manifest.ts';

/**
 * The cells of a tile sheet that was handed over, in their order, called after their slots; numbers are those of places on the grid, so that
 * cells that are added later move no meaning.
 */
export function tileTable({ width, height, margin, settings, bays }: Manifest['sheets'][number]): TileRow[] {
  const pitch = settings.cell + 2 * cellPadding({ margin });
  const columns = Math.floor(width / pitch);
  return bays
    .filter((bay) => bay.form === 'cell')
    .map(({ slot, px }) => {
      const [column, row] = [Math.floor(px[0] / pitch), Math.floor(px[1] / pitch)];
      const own = { ...blockOf(slot), flips: '' as const };
      return rectRow({ id: row * columns + column, name: slot, column, row, px, ...own }, width, height);
    })
    .sort((a, b) => a.id - b.id);
}
