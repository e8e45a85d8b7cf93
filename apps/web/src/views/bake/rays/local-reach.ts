import type { BrushStamp } from '@wembrel/core/decisions/ray-decisions';

/** A reach around a point of a pairing, as the decisions keep it. */
export type LocalReach = BrushStamp;

/** What the next local reach does; its radius is a share of the low-poly's largest side until somebody types one. */
export interface ReachDraft extends Omit<LocalReach, 'at' | 'radius'> {
  /** m */
  radius: number | null;
}

export const FIRST_DRAFT: ReachDraft = { radius: null, outward: 2, inward: 1, straight: 0 };

const SHARE = 0.06;

/**
 * A local reach without its place.
 * @param box of the low-polys: low x y z, high x y z, m
 */
export function reachOf(draft: ReachDraft, box: readonly number[] | undefined): Omit<LocalReach, 'at'> {
  const side = box ? Math.max(...[0, 1, 2].map((k) => box[k + 3] - box[k])) : 1;
  const { radius, outward, inward, straight } = draft;
  return { radius: radius ?? Number(Math.max(1e-6, side * SHARE).toPrecision(2)), outward, inward, straight };
}
