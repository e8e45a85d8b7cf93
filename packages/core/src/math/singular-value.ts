/** The larger singular value of [[a, b], [c, d]]: how far it stretches at most. */
export function largerSingularValue(a: number, b: number, c: number, d: number): number {
  const e = (a + d) / 2;
  const f = (a - d) / 2;
  const g = (c + b) / 2;
  const h = (c - b) / 2;
  return Math.sqrt(e * e + h * h) + Math.sqrt(f * f + g * g);
}
