import type { Covered } from './covered.ts';
import type { PackItem, PackOptions } from './items.ts';

/** How much more than the sheet must be needed before no layout is tried: what is measured along lines is off by a little. */
const MORE = 1.02;

/**
 * Whether shapes certainly have no room at the greatest scale. Each takes at least its area, half of the margin along the outline of its hull, and a disc of
 * half of the margin (Steiner); the hull is at least twice as long round as the diagonal of the box.
 * @param taken what each shape covers
 */
export function isCrowded(items: readonly PackItem[], taken: readonly Covered[], options: PackOptions): boolean {
  const { width, height, margin, maxScale } = options;
  const half = margin / 2;
  const room = MORE * width * height;
  let sum = 0;
  for (let i = 0; i < items.length && sum <= room; i++) {
    const { fixedSide, factor, most, shape } = items[i];
    if (fixedSide) sum += (fixedSide + margin) ** 2;
    else {
      const size = Math.min(most ?? Number.POSITIVE_INFINITY, maxScale * factor);
      sum += taken[i].area * size * size + 2 * diagonal(shape) * size * half + Math.PI * half * half;
    }
  }
  return sum > room;
}

/** Of the box of a shape that begins at 0, px. */
function diagonal(shape: Float64Array): number {
  let [w, h] = [0, 0];
  for (let i = 0; i < shape.length; i += 2) {
    w = Math.max(w, shape[i]);
    h = Math.max(h, shape[i + 1]);
  }
  return Math.sqrt(w * w + h * h);
}
