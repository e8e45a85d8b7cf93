/** A length as it reads best: mm below a metre, with a true minus sign. */
export function length(m: number): string {
  const sign = m < 0 ? '−' : '';
  const a = Math.abs(m);
  if (a >= 1) return `${sign}${a.toFixed(2)} m`;
  const mm = a * 1000;
  return `${sign}${mm.toFixed(mm >= 100 ? 0 : mm >= 10 ? 1 : 2)} mm`;
}

/** A round length of at most so many metres, for a scale. */
export function roundLength(most: number): number {
  const power = 10 ** Math.floor(Math.log10(most));
  return [5, 2, 1].map((k) => k * power).find((v) => v <= most) ?? power;
}
