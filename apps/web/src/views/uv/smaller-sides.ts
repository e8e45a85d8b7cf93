import { type SheetDecision, sheetSides } from '@wembrel/core/decisions/sheets';
import type { PackedSheet } from '../../contract/plots.ts';
import { SHEET_SIZES } from '../../project/sheet-sizes.ts';

/**
 * Sides of the smallest sheet, square or half as high, that may well hold all bays of one: its area is at least that of all boxes with their
 * margin. Null where none is smaller, or where something is not as sharp as its sources.
 */
export function smallerSides(
  decided: Pick<SheetDecision, 'kind' | 'size' | 'height' | 'margin'>,
  sheet: Pick<PackedSheet, 'scale' | 'plots'>,
): [number, number] | null {
  const [width, height] = sheetSides(decided);
  if (decided.kind !== 'atlas' || sheet.scale < 0.9999 || sheet.plots.length === 0) return null;
  const boxes = sheet.plots.map((plot) => [plot.extent[2] + decided.margin, plot.extent[3] + decided.margin]);
  const area = boxes.reduce((sum, [w, h]) => sum + w * h, 0);
  const longest = Math.max(...boxes.map(([w, h]) => Math.max(w, h)));
  const widest = Math.max(...boxes.map(([w, h]) => Math.min(w, h)));
  for (const side of SHEET_SIZES)
    for (const other of [side / 2, side]) {
      if (other < SHEET_SIZES[0] || side * other >= width * height) continue;
      if (side * other >= area && side >= longest && other >= widest) return [side, other];
    }
  return null;
}
