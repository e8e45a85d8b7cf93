import type { Covered } from './covered.ts';
import type { PackItem, PackOptions } from './items.ts';

/** How much more than the sheet must be needed before no layout is tried: what is measured along lines is off by a little. */
const MORE = 1.02;

/**
 * Whether shapes certainly have no room at the greatest scale. With half of the margin around it, each takes at least what a disc of its area would take
 * (Brunn and Minkowski), whatever its form and however many pieces it has.
 * @param taken what each shape covers
 */
export function isCrowded(items: readonly PackItem[], taken: readonly Covered[], options: PackOptions): boolean {
  const { width, height, margin, maxScale } = options;
  const half = margin / 2;
  const room = MORE * width * height;
  let sum = 0;
  for (let i = 0; i < items.length && sum <= room; i++) {
    const { fixedSide, factor, most } = items[i];
    if (fixedSide) sum += (fixedSide + margin) ** 2;
    else {
      const size = Math.min(most ?? Number.POSITIVE_INFINITY, maxScale * factor);
      sum += (Math.sqrt(taken[i].area) * size + Math.sqrt(Math.PI) * half) ** 2;
    }
  }
  return sum > room;
}
