import { mapInBox, mapPoint, movedMap, type PlacedMap, turnedBox } from '../pack/placed-map.ts';
import type { PlacedShape } from './packable.ts';

/** The map from a plot's shape, mirrored or not, to px. */
const mapOf = (plot: PlacedShape): PlacedMap =>
  movedMap(mapInBox([plot.boxWidth, plot.boxHeight], plot, plot.scale), plot.x, plot.y);

/** px of a point given in layout coordinates. */
export function placePoint(plot: PlacedShape, lx: number, ly: number): [number, number] {
  if (plot.kind === 'swatch') return [plot.x + plot.boxWidth / 2, plot.y + plot.boxHeight / 2];
  const along = lx - plot.originX;
  return mapPoint(mapOf(plot), plot.flip === undefined ? along : plot.flip - along, ly - plot.originY);
}

/** A linear map with a move: x' = a·x + c·y + e, y' = b·x + d·y + f. */
export type Frame = [a: number, b: number, c: number, d: number, e: number, f: number];

/** Where `placePoint` puts layout coordinates, as one map to px; null for a swatch, which is one point. */
export function placeFrame(plot: PlacedShape): Frame | null {
  if (plot.kind === 'swatch') return null;
  const { c, s, scale } = mapOf(plot);
  const along = plot.flip === undefined ? scale : -scale;
  const [a, b, right, down] = [c * along, s * along, -s * scale, c * scale];
  const [x, y] = placePoint(plot, plot.originX, plot.originY);
  return [a, b, right, down, x - a * plot.originX - right * plot.originY, y - b * plot.originX - down * plot.originY];
}

/** The box around what a plot shows as it lies, px: where it is turned by no quarter, that is less than its turned box. */
export function shownBox(plot: PlacedShape): { left: number; top: number; right: number; bottom: number } {
  if (plot.kind !== 'plot' || plot.shape.length === 0) {
    const [w, h] = placedBox(plot);
    return { left: plot.x, top: plot.y, right: plot.x + w, bottom: plot.y + h };
  }
  const out = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity };
  for (let i = 0; i < plot.shape.length; i += 2) {
    const [x, y] = placePoint(plot, plot.shape[i] + plot.originX, plot.shape[i + 1] + plot.originY);
    out.left = Math.min(out.left, x);
    out.top = Math.min(out.top, y);
    out.right = Math.max(out.right, x);
    out.bottom = Math.max(out.bottom, y);
  }
  return out;
}

/** Size of the turned box of a plot, px. */
export const placedBox = (
  plot: Pick<PlacedShape, 'boxWidth' | 'boxHeight' | 'turns' | 'direction'>,
): [number, number] => turnedBox([plot.boxWidth, plot.boxHeight], plot);
