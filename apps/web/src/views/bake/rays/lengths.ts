/** A length as it reads best: mm below a metre. */
export function length(m: number): string {
  const a = Math.abs(m);
  if (a >= 1) return `${m.toFixed(2)} m`;
  const mm = m * 1000;
  return `${Math.abs(mm) >= 100 ? mm.toFixed(0) : Math.abs(mm) >= 10 ? mm.toFixed(1) : mm.toFixed(2)} mm`;
}

/** A round length of at most so many metres, for a scale. */
export function roundLength(most: number): number {
  const power = 10 ** Math.floor(Math.log10(most));
  return [5, 2, 1].map((k) => k * power).find((v) => v <= most) ?? power;
}
