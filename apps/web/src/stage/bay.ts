import type { Frame } from '@wembrel/core/layout/place';
import { insideOutline } from '@wembrel/core/math/outline';
import type { SheetOutlines } from '../contract/project.ts';

/** A bay on a sheet; its texels are drawn where it is known how they lie. */
export type SheetBay = SheetOutlines['plots'][number] & {
  frame?: Frame | null;
  /** Upper left and size of the box around what it shows, px, where that is less than its own. */
  extent?: [number, number, number, number];
};

/** The box around what a bay shows. */
export const extentOf = (bay: Pick<SheetBay, 'box' | 'extent'>): [number, number, number, number] =>
  bay.extent ?? bay.box;

/** Border of a bay as an SVG path, px of the sheet: that of its islands, else its box. */
export const borderOf = (bay: Pick<SheetBay, 'path' | 'box'>): string =>
  bay.path || `M${bay.box[0]} ${bay.box[1]}h${bay.box[2]}v${bay.box[3]}h${-bay.box[2]}Z`;

/** Bays whose boxes a box touches. */
export function within(plots: readonly SheetBay[], [x0, y0, x1, y1]: [number, number, number, number]): number[] {
  return plots
    .filter((plot) => {
      const [x, y, w, h] = extentOf(plot);
      return x < x1 && x + w > x0 && y < y1 && y + h > y0;
    })
    .map((plot) => plot.id);
}

/** Bays whose middle lies inside a way around. */
export function inLasso(plots: readonly SheetBay[], way: readonly [number, number][]): number[] {
  return plots
    .filter((plot) => {
      const [x, y, w, h] = extentOf(plot);
      return insideOutline(way, x + w / 2, y + h / 2);
    })
    .map((plot) => plot.id);
}

/** How much of its colour an island shows: none where texels lie below, unless colours were asked for. */
export function islandFill(of: { tinted: boolean; filled: boolean; selected: boolean; lit: boolean }): number {
  if (of.tinted) return 0.85;
  if (!of.filled) return 0;
  return of.selected ? 0.75 : of.lit ? 0.45 : 0.22;
}
