/** Six significant digits: figures for reading, the same on every machine. */
export function round(v: number): number {
  return Number(v.toPrecision(6));
}
