import type { MergeDecisions } from '../decisions/decisions.ts';
import { nearestOnTriangle, TOUCH } from '../math/barycentrics.ts';

import type { PlacedShape } from './packable.ts';
import { placePoint } from './place.ts';

/**
 * Share of a sheet's texels that the bake will write: those whose middles lie on an island or within half a diagonal of one, as in
 * `transferTile`.
 */
function coverageOf(sheet: { width: number; height: number; plots: readonly PlacedShape[] }): number {
  const { width, height } = sheet;
  const taken = new Uint8Array(width * height);
  for (const plot of sheet.plots) {
    if (plot.kind !== 'plot') {
      const [r, b] = [plot.x + plot.boxWidth, plot.y + plot.boxHeight];
      markTriangle(taken, width, height, Float64Array.of(plot.x, plot.y, r, plot.y, r, b));
      markTriangle(taken, width, height, Float64Array.of(plot.x, plot.y, r, b, plot.x, b));
      continue;
    }
    const place = new Float64Array(6);
    for (let i = 0; i < plot.shape.length; i += 6) {
      for (let k = 0; k < 6; k += 2) {
        const at = placePoint(plot, plot.shape[i + k] + plot.originX, plot.shape[i + k + 1] + plot.originY);
        place.set(at, k);
      }
      markTriangle(taken, width, height, place);
    }
  }
  let n = 0;
  for (const t of taken) n += t;
  return n / taken.length;
}

const bary = new Float64Array(3);

function markTriangle(taken: Uint8Array, width: number, height: number, t: Float64Array): void {
  const [ax, ay, bx, by, cx, cy] = t;
  const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
  const flip = det < 0 ? -1 : 1;
  const x0 = Math.max(0, Math.floor(Math.min(ax, bx, cx) - 1));
  const x1 = Math.min(width - 1, Math.ceil(Math.max(ax, bx, cx) + 1));
  const y0 = Math.max(0, Math.floor(Math.min(ay, by, cy) - 1));
  const y1 = Math.min(height - 1, Math.ceil(Math.max(ay, by, cy) + 1));
  for (let y = y0; y <= y1; y++)
    for (let x = x0; x <= x1; x++) {
      const i = y * width + x;
      if (taken[i]) continue;
      const [px, py] = [x + 0.5, y + 0.5];
      const inside =
        det !== 0 &&
        flip * ((bx - ax) * (py - ay) - (px - ax) * (by - ay)) >= -1e-9 &&
        flip * ((cx - bx) * (py - by) - (px - bx) * (cy - by)) >= -1e-9 &&
        flip * ((ax - cx) * (py - cy) - (px - cx) * (ay - cy)) >= -1e-9;
      if (inside || nearestOnTriangle(t, 0, px, py, bary) <= TOUCH * TOUCH) taken[i] = 1;
    }
}

/** What a packed sheet means for the prediction; null when nothing lies on it. */
export function packedFigures(
  sheet: { width: number; height: number; scale: number; plots: readonly PlacedShape[] },
  scale: MergeDecisions['scale'],
): PackedFigures | null {
  if (sheet.plots.length === 0) return null;
  const first = sheet.plots.find((plot) => plot.kind !== 'swatch' && plot.worldArea > 0 && plot.texelArea > 0);
  const density = first && (first.scale * Math.sqrt(first.texelArea / first.worldArea)) / first.weight;
  return { scale: sheet.scale, coverage: coverageOf(sheet), evenDensity: scale === 'even' ? (density ?? null) : null };
}

/** What packing a sheet brought, in place of estimates. */
export interface PackedFigures {
  scale: number;
  coverage: number;
  /** px/m of everything on it, where all have one density. */
  evenDensity: number | null;
}
