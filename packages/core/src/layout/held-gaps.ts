import { borderEdges } from '@wembrel/kernels/field';
import { type SheetDecision, sheetSides } from '../decisions/sheets.ts';
import { gapBetween, type PlacedBorder } from '../pack/gaps.ts';
import type { PlacedShape } from './packable.ts';
import { placePoint, shownBox } from './place.ts';

/**
 * Bays put somewhere by hand that are nearer to each other than the margin, or to the border than half of it: what packing cannot mend,
 * since it leaves them where they are.
 * @returns their ids, ascending
 */
export function heldTooNear(
  plots: readonly PlacedShape[],
  sheet: Pick<SheetDecision, 'pinned' | 'margin' | 'size' | 'height'>,
): number[] {
  const keys = new Set(Object.keys(sheet.pinned));
  const held = plots.filter(
    (plot) => plot.keys.some((k) => keys.has(k)) && (plot.kind === 'plot' || plot.kind === 'swatch'),
  );
  const borders = held.map(borderOf);
  const [width, height] = sheetSides(sheet);
  const edge = sheet.margin / 2 - TOLERANCE;
  const out = new Set<number>();
  borders.forEach((border, i) => {
    if (Math.min(border.left, border.top, width - border.right, height - border.bottom) < edge) out.add(held[i].id);
    for (let j = i + 1; j < borders.length; j++) {
      const placedBorder = borders[j];
      if (
        gapBetween(border, placedBorder, sheet.margin) < sheet.margin - TOLERANCE ||
        inside(border, placedBorder) ||
        inside(placedBorder, border)
      ) {
        out.add(held[i].id);
        out.add(held[j].id);
      }
    }
  });
  return [...out].sort((a, b) => a - b);
}

/** Px: places are stored rounded. */
const TOLERANCE = 0.01;

function borderOf(placedShape: PlacedShape): PlacedBorder {
  const box = shownBox(placedShape);
  if (placedShape.kind === 'swatch') {
    const { left, top, right, bottom } = box;
    const corners = [left, top, right, top, right, bottom, left, bottom];
    return { segments: Float64Array.from({ length: 16 }, (_, i) => corners[((i >> 2) * 2 + (i & 3)) % 8]), ...box };
  }
  const segments = borderEdges(placedShape.shape);
  for (let i = 0; i < segments.length; i += 2) {
    const [x, y] = placePoint(placedShape, segments[i] + placedShape.originX, segments[i + 1] + placedShape.originY);
    segments[i] = x;
    segments[i + 1] = y;
  }
  return { segments, ...box };
}

/** Whether a point of a lies inside b: a ray to the right crosses its border an odd number of times. */
function inside(placedBorder: PlacedBorder, b: PlacedBorder): boolean {
  if (placedBorder.segments.length === 0) return false;
  const [x, y] = placedBorder.segments;
  if (x < b.left || x > b.right || y < b.top || y > b.bottom) return false;
  let odd = false;
  const segments = b.segments;
  for (let i = 0; i < segments.length; i += 4)
    if (
      segments[i + 1] > y !== segments[i + 3] > y &&
      x < segments[i] + ((y - segments[i + 1]) / (segments[i + 3] - segments[i + 1])) * (segments[i + 2] - segments[i])
    )
      odd = !odd;
  return odd;
}
