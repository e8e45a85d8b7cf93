/** Area-weighted texel density, px per metre ("Counts and sizes", Texel density). */
export interface Density {
  mean: number;
  median: number;
  p5: number;
  p95: number;
}

/**
 * @param pixels texel area of each face, px² @param surface its area in m² after node scale
 * @returns null when no face has both
 */
export function densityOf(pixels: ArrayLike<number>, surface: ArrayLike<number>): Density | null {
  const rows: { d: number; w: number }[] = [];
  let total = 0;
  let sum = 0;
  for (let i = 0; i < pixels.length; i++) {
    if (!(surface[i] > 0) || !(pixels[i] > 0)) continue;
    const d = Math.sqrt(pixels[i] / surface[i]);
    rows.push({ d, w: surface[i] });
    total += surface[i];
    sum += d * surface[i];
  }
  if (rows.length === 0) return null;
  rows.sort((a, b) => a.d - b.d);
  const at = (share: number): number => {
    let w = 0;
    for (const r of rows) {
      w += r.w;
      if (w >= share * total) return r.d;
    }
    return rows[rows.length - 1].d;
  };
  return { mean: sum / total, median: at(0.5), p5: at(0.05), p95: at(0.95) };
}
