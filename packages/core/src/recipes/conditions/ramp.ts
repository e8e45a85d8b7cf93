import type { Stretch } from '../../decisions/recipe/condition.ts';

const smooth = (t: number): number => (t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t));

/** How much a value belongs to a stretch, 0 … 1; see `Stretch`. */
export function belongs(v: number, { from, to, soft }: Stretch): number {
  if (soft > 0) {
    const up = from === null ? 1 : smooth((v - from) / soft + 0.5);
    const down = to === null ? 1 : smooth((to - v) / soft + 0.5);
    return up * down;
  }
  return (from === null || v >= from) && (to === null || v <= to) ? 1 : 0;
}
