import type { Plan } from '../decisions/decisions.ts';

/** What decides how sharp something becomes on its sheet, the scale that all share aside. */
export interface Sharpness {
  /** Relative size: 1 = as many texels as the source where the common scale is 1. */
  factor: number;
  /** Greatest size that is of any use, px per texel of the source. */
  most: number;
}

/**
 * @param weight importance, 1 = like the others
 * @param useful side at which the source's pictures show all that they have, as a share of their side ("Useful size")
 */
export function sharpnessOf(scale: Exclude<Plan['scale'], 'even'>, weight: number, useful: number): Sharpness {
  const most = scale === 'detail' ? Math.min(1, useful) : 1;
  return { factor: most * weight, most };
}

/** Common scale beyond which nothing grows any more. */
export function scaleLimit(list: readonly Sharpness[]): number {
  return (
    list.reduce(
      (greatest, sharpness) =>
        sharpness.factor > 0 ? Math.max(greatest, sharpness.most / sharpness.factor) : greatest,
      0,
    ) || 1
  );
}

/** Size at a common scale, px per texel of the source. */
export const sizeAt = (sharpness: Sharpness, common: number): number =>
  Math.min(sharpness.most, sharpness.factor * common);

/**
 * Side at which pictures show all that they have, as a share of the longest of them; 1 without pictures ("Useful size"). Flat ones do not count, as they do not for
 * the size at which a material is laid out (`referenceSize`).
 */
export function usefulShareOf(
  pictures: readonly { width: number; height: number; flat?: boolean; usefulSide?: number }[],
): number {
  let longest = 1;
  let useful = 0;
  for (const picture of pictures) {
    if (picture.flat) continue;
    const side = Math.max(picture.width, picture.height);
    longest = Math.max(longest, side);
    useful = Math.max(useful, Math.min(side, picture.usefulSide ?? side));
  }
  return useful === 0 ? 1 : useful / longest;
}
