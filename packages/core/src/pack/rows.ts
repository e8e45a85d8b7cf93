import type { PackItem, PackOptions, PackResult } from './items.ts';
import { solve } from './solve.ts';

interface Box {
  item: number;
  width: number;
  height: number;
}

/**
 * Boxes of all shapes in rows, tall ones first, at the greatest scale at which they have room: what can be shown at once, before anything is packed. Boxes keep
 * the margin, and nothing is turned; it is far from tight.
 * @returns null where something is there already, since rows would lie on it, and where there is no room at any scale
 */
export function packInRows(items: readonly PackItem[], options: PackOptions): PackResult | null {
  const { fixed = [], reserves = [], maxScale, width, height } = options;
  if (fixed.length > 0 || reserves.length > 0 || items.length === 0) return null;
  const natural = items.map(({ shape }) => extentOf(shape));
  const boxes = (scale: number): Box[] =>
    items
      .map(({ factor, most = Number.POSITIVE_INFINITY, fixedSide }, item) => {
        const size = Math.min(most, scale * factor);
        const [w, h] = natural[item];
        return { item, width: fixedSide ?? w * size, height: fixedSide ?? h * size };
      })
      .sort((a, b) => b.height - a.height || a.item - b.item);
  const scale = solve((s) => (rows(boxes(s), width, options.margin).height <= height ? -1 : 1), maxScale);
  const { places, height: used } = rows(boxes(scale), width, options.margin);
  if (used > height) return null;
  return { scale, attempts: 0, rounds: 0, placements: places.map(([x, y]) => ({ x, y, turns: 0 })) };
}

/** Upper left corners by item, and how far down the last row ends with half a margin; without an end where a box is wider than the sheet. */
function rows(
  boxes: readonly Box[],
  sheetWidth: number,
  margin: number,
): { places: [number, number][]; height: number } {
  const places: [number, number][] = [];
  let [x, y, row] = [margin / 2, margin / 2, 0];
  for (const { item, width, height } of boxes) {
    if (width + margin > sheetWidth) return { places, height: Number.POSITIVE_INFINITY };
    if (x + width + margin / 2 > sheetWidth) {
      y += row + margin;
      x = margin / 2;
      row = 0;
    }
    places[item] = [x, y];
    x += width + margin;
    row = Math.max(row, height);
  }
  return { places, height: y + row + margin / 2 };
}

function extentOf(shape: Float64Array): [number, number] {
  let [width, height] = [0, 0];
  for (let i = 0; i < shape.length; i += 2) {
    if (shape[i] > width) width = shape[i];
    if (shape[i + 1] > height) height = shape[i + 1];
  }
  return [width, height];
}
