/** The greatest scale up to `most` at which a growing function is not above 0, to a part in 100 000; a millionth where there is none. */
export function solve(f: (scale: number) => number, most: number): number {
  let low = 1e-6;
  let high = Math.min(most, 1e6);
  if (f(high) <= 0) return high;
  for (let k = 0; k < 48 && high > low * (1 + 1e-5); k++) {
    const mid = Math.sqrt(low * high);
    if (f(mid) <= 0) low = mid;
    else high = mid;
  }
  return low;
}
