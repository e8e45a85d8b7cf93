import { mipAlign, type SheetDecision, sheetSides } from '../decisions/sheets.ts';
import { type Sharpness, scaleLimit, sizeAt } from './sharpness.ts';

/**
 * Bays that hold a whole texture: strips of a trim sheet, which repeat along the sheet's width, and cells of a tile sheet's grid. Where
 * they lie follows from sizes alone, so that predictions are exact.
 */

/** A texture that gets such a bay, as large as it takes until it is the same again (twice its size when mirrored), in texels. */
export interface WholeTexture extends Sharpness {
  width: number;
  height: number;
}

/** True for sheets whose bays hold whole textures and have sizes of their own. */
export const hasWholeBays = (sheet: Pick<SheetDecision, 'kind'>): boolean =>
  sheet.kind === 'trim' || sheet.kind === 'tile';

type SheetRoom = Pick<SheetDecision, 'size' | 'height' | 'margin' | 'reserves'>;

export interface Strip {
  /** Upper edge and height, px. */
  y: number;
  height: number;
  /** How often the texture stands side by side over the sheet's width. */
  repeats: number;
  /** px per texel. */
  scale: number;
}

/** The least number of repeats at which the texture is no larger than `most` px per texel. */
function repeatsAt(sheetWidth: number, width: number, most: number): number {
  return Math.max(1, Math.ceil(sheetWidth / (width * most) - 1e-9));
}

/**
 * Stacks strips from the top, each over the whole width, in the order given, at the greatest common scale at which all fit. A strip's
 * size comes in steps, since a whole number of repeats has to fill the width.
 * @param limit greatest common scale
 * @returns null when they fit at no scale
 */
export function layStrips(
  list: readonly WholeTexture[],
  sheet: SheetRoom,
  limit = Number.POSITIVE_INFINITY,
): { common: number; strips: Strip[] } | null {
  const [width, height] = sheetSides(sheet);
  const most = Math.min(limit, scaleLimit(list));
  const at = (common: number) =>
    list.map((wholeTexture) => {
      const repeats = repeatsAt(width, wholeTexture.width, Math.max(1e-9, sizeAt(wholeTexture, common)));
      const scale = width / (repeats * wholeTexture.width);
      return { repeats, scale, height: Math.max(1, Math.ceil(wholeTexture.height * scale - 1e-6)) };
    });
  const place = (common: number): Strip[] | null => {
    const half = sheet.margin / 2;
    const taken = sheet.reserves
      .map((reserve) => [reserve.y, reserve.y + reserve.height] as const)
      .sort((a, b) => a[0] - b[0]);
    const align = mipAlign(sheet.margin);
    const next = (v: number) => Math.ceil(v / align) * align;
    let y = next(half);
    const out: Strip[] = [];
    for (const s of at(common)) {
      for (const [top, bottom] of taken) if (y + s.height + half > top && y - half < bottom) y = next(bottom + half);
      if (y + s.height + half > height) return null;
      out.push({ y, ...s });
      y = next(y + s.height + sheet.margin);
    }
    return out;
  };
  // Only at these scales anything changes.
  const steps = new Set([most]);
  for (const wholeTexture of list)
    for (let n = repeatsAt(width, wholeTexture.width, sizeAt(wholeTexture, most)), i = 0; i < 256; n++, i++) {
      const common = width / (n * wholeTexture.width) / wholeTexture.factor;
      if (common < most) steps.add(common);
    }
  const sorted = [...steps].sort((a, b) => b - a);
  let low = 0;
  let high = sorted.length;
  // Fewer texels never need more room, so the first step that fits is found by halving.
  while (low < high) {
    const mid = (low + high) >> 1;
    if (place(sorted[mid])) high = mid;
    else low = mid + 1;
  }
  return low === sorted.length ? null : { common: sorted[low], strips: place(sorted[low]) as Strip[] };
}

export interface Cell {
  /** Place in the grid, from 0. */
  column: number;
  row: number;
  /** Upper left of what the texture fills, px. */
  x: number;
  y: number;
  /** px per texel. */
  scale: number;
}

/** Padding on each side of a cell's picture, px: half the margin, or the next power of two, so that mips of all cells are alike. */
export const cellPadding = ({ margin }: Pick<SheetRoom, 'margin'>): number =>
  margin > 0 ? 2 ** Math.ceil(Math.log2(margin / 2)) : 0;

/** Columns and rows of a tile sheet's grid, the padding of its cells, and from one cell to the next, px. */
function gridOf(sheet: SheetRoom & Pick<SheetDecision, 'cell'>): {
  columns: number;
  rows: number;
  padding: number;
  pitch: number;
} {
  const [width, height] = sheetSides(sheet);
  const padding = cellPadding(sheet);
  const pitch = sheet.cell + 2 * padding;
  return { columns: Math.floor(width / pitch), rows: Math.floor(height / pitch), padding, pitch };
}

/**
 * Gives textures the cells of a grid in the order given, row by row, past those that a reserve touches. One that is no
 * larger than its cell lies in it texel by texel, a larger one is made smaller, in proportion. Padding comes on top of the cell.
 * @returns null when there are not enough cells
 */
export function layCells(list: readonly WholeTexture[], sheet: SheetRoom & Pick<SheetDecision, 'cell'>): Cell[] | null {
  const { columns, rows, padding, pitch } = gridOf(sheet);
  const out: Cell[] = [];
  for (let row = 0; row < rows && out.length < list.length; row++)
    for (let column = 0; column < columns && out.length < list.length; column++) {
      const [x, y] = [column * pitch, row * pitch];
      const reserved = sheet.reserves.some(
        (reserve) =>
          reserve.x < x + pitch &&
          reserve.x + reserve.width > x &&
          reserve.y < y + pitch &&
          reserve.y + reserve.height > y,
      );
      if (reserved) continue;
      const wholeTexture = list[out.length];
      out.push({
        column,
        row,
        x: x + padding,
        y: y + padding,
        scale: Math.min(1, sheet.cell / Math.max(wholeTexture.width, wholeTexture.height)),
      });
    }
  return out.length === list.length ? out : null;
}
