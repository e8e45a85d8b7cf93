import type { BrushStamp } from '@wembrel/core/decisions/ray-decisions';

/** What the next brush stamp does; its radius is a share of the low-poly's largest side until somebody types one. */
export interface Brush extends Omit<BrushStamp, 'at' | 'radius'> {
  /** m */
  radius: number | null;
}

export const PLAIN_BRUSH: Brush = { radius: null, outward: 2, inward: 1, straight: 0 };

const SHARE = 0.06;

/** @param box of the low-polys: low x y z, high x y z, m */
export function brushOf(brush: Brush, box: readonly number[] | undefined): Omit<BrushStamp, 'at'> {
  const side = box ? Math.max(...[0, 1, 2].map((k) => box[k + 3] - box[k])) : 1;
  const { radius, outward, inward, straight } = brush;
  return { radius: radius ?? Number(Math.max(1e-6, side * SHARE).toPrecision(2)), outward, inward, straight };
}
