import type { PlacedShape } from './packable.ts';

/** px of a point given in layout coordinates. */
export function placePoint(plot: PlacedShape, lx: number, ly: number): [number, number] {
  if (plot.kind === 'swatch') return [plot.x + plot.boxWidth / 2, plot.y + plot.boxHeight / 2];
  const along = lx - plot.originX;
  const x = (plot.flip === undefined ? along : plot.flip - along) * plot.scale;
  const y = (ly - plot.originY) * plot.scale;
  const w = plot.boxWidth;
  const h = plot.boxHeight;
  if (plot.direction) {
    const [c, s] = plot.direction;
    const [pw, ph] = placedBox(plot);
    const [rx, ry] = [x - w / 2, y - h / 2];
    return [plot.x + pw / 2 + c * rx - s * ry, plot.y + ph / 2 + s * rx + c * ry];
  }
  switch (plot.turns) {
    case 0:
      return [plot.x + x, plot.y + y];
    case 1:
      return [plot.x + h - y, plot.y + x];
    case 2:
      return [plot.x + w - x, plot.y + h - y];
    default:
      return [plot.x + y, plot.y + w - x];
  }
}

/** A linear map with a move: x' = a·x + c·y + e, y' = b·x + d·y + f. */
export type Frame = [a: number, b: number, c: number, d: number, e: number, f: number];

/** Where `placePoint` puts layout coordinates, as one map to px; null for a swatch, which is one point. */
export function placeFrame(plot: PlacedShape): Frame | null {
  if (plot.kind === 'swatch') return null;
  const { originX, originY } = plot;
  const [x, y] = placePoint(plot, originX, originY);
  // Far apart, so that subtracting loses nothing.
  const far = 4096;
  const [ax, ay] = placePoint(plot, originX + far, originY);
  const [bx, by] = placePoint(plot, originX, originY + far);
  const [a, b, c, d] = [(ax - x) / far, (ay - y) / far, (bx - x) / far, (by - y) / far];
  return [a, b, c, d, x - a * originX - c * originY, y - b * originX - d * originY];
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
export function placedBox(plot: Pick<PlacedShape, 'boxWidth' | 'boxHeight' | 'turns' | 'direction'>): [number, number] {
  if (plot.direction) {
    const [c, s] = plot.direction.map(Math.abs);
    return [c * plot.boxWidth + s * plot.boxHeight, s * plot.boxWidth + c * plot.boxHeight];
  }
  return plot.turns % 2 === 0 ? [plot.boxWidth, plot.boxHeight] : [plot.boxHeight, plot.boxWidth];
}
