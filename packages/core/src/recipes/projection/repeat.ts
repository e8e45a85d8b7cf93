/**
 * Size of one repeat, m, as it is laid: where a cell wraps, the nearest at which whole repeats fit.
 * @param metres wanted width of a repeat @param aspect height over width of the picture
 */
export function repeatSize(
  metres: number,
  aspect: number,
  wraps: readonly [number, number] | null,
): readonly [number, number] {
  const wanted = [metres, metres * aspect] as const;
  if (!wraps) return wanted;
  const fitting = (side: number, size: number) => side / Math.max(1, Math.round(side / size));
  return [fitting(wraps[0], wanted[0]), fitting(wraps[1], wanted[1])];
}
