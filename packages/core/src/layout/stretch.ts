import { type Model, surfaceScale } from '../scene/model.ts';
import type { Plot } from './plot.ts';

/**
 * How much longer texels are on a triangle than wide: ratio ≥ 1 of the singular values of its map from UV to surface (Sander et al. 2001).
 * @param ee @param ff @param ef products of two edges of the surface with themselves and each other
 * @param uv the same two edges in texels, x and y of each
 * @returns NaN where there is no area on either
 */
export function triangleStretch(
  ee: number,
  ff: number,
  ef: number,
  [a, b, c, d]: readonly [number, number, number, number],
): number {
  const det = a * d - b * c;
  if (!(ee * ff - ef * ef > 0) || det === 0) return Number.NaN;
  // Metres along a texel each way, squared: the metric of the surface in texels.
  const uu = (d * d * ee - 2 * b * d * ef + b * b * ff) / (det * det);
  const vv = (c * c * ee - 2 * a * c * ef + a * a * ff) / (det * det);
  const cross = (-c * d * ee + (a * d + b * c) * ef - a * b * ff) / (det * det);
  const half = Math.sqrt(((uu - vv) / 2) ** 2 + cross * cross);
  const middle = (uu + vv) / 2;
  return Math.sqrt((middle + half) / Math.max(middle - half, 1e-12 * middle));
}

/** Mean stretch of what a plot shows, by area; null for a swatch and for whole textures. */
export function plotStretch(
  models: readonly Model[],
  plot: Pick<Plot, 'islands' | 'shape' | 'shapeIsland' | 'shapeTriangle'>,
): number | null {
  let sum = 0;
  let weight = 0;
  plot.shapeTriangle.forEach((triangle, t) => {
    const { model, part } = plot.islands[plot.shapeIsland[t]];
    const from = models[model].parts[part];
    const [i, j, k] = [0, 1, 2].map((c) => from.indices[triangle * 3 + c] * 3);
    let [ee, ff, ef] = [0, 0, 0];
    for (let x = 0; x < 3; x++) {
      const e = from.positions[j + x] - from.positions[i + x];
      const f = from.positions[k + x] - from.positions[i + x];
      ee += e * e;
      ff += f * f;
      ef += e * f;
    }
    const shape = plot.shape;
    const o = t * 6;
    const stretch = triangleStretch(ee, ff, ef, [
      shape[o + 2] - shape[o],
      shape[o + 3] - shape[o + 1],
      shape[o + 4] - shape[o],
      shape[o + 5] - shape[o + 1],
    ]);
    if (Number.isNaN(stretch)) return;
    const area = (Math.sqrt(Math.max(0, ee * ff - ef * ef)) / 2) * surfaceScale(from) ** 2;
    sum += stretch * area;
    weight += area;
  });
  return weight > 0 ? sum / weight : null;
}
