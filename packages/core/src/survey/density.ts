/** Area-weighted texel density, px per metre ("Counts and sizes", Texel density). */
export interface Density {
  mean: number;
  median: number;
  p5: number;
  p95: number;
}

/** Faces by density, and the whole of their surface. */
function sortedDensities(pixels: ArrayLike<number>, surface: ArrayLike<number>) {
  const rows: { d: number; w: number }[] = [];
  let total = 0;
  for (let i = 0; i < pixels.length; i++) {
    if (!(surface[i] > 0) || !(pixels[i] > 0)) continue;
    rows.push({ d: Math.sqrt(pixels[i] / surface[i]), w: surface[i] });
    total += surface[i];
  }
  rows.sort((a, b) => a.d - b.d);
  /** Densities at rising shares of the surface. */
  const at = (shares: readonly number[]): number[] => {
    let w = 0;
    let i = -1;
    return shares.map((share) => {
      while (i < 0 || (w < share * total && i < rows.length - 1)) w += rows[++i].w;
      return rows[i].d;
    });
  };
  return { rows, total, at };
}

/**
 * @param pixels texel area of each face, px² @param surface its area in m² after node scale
 * @returns null when no face has both
 */
export function densityOf(pixels: ArrayLike<number>, surface: ArrayLike<number>): Density | null {
  const { rows, total, at } = sortedDensities(pixels, surface);
  if (rows.length === 0) return null;
  const [p5, median, p95] = at([0.05, 0.5, 0.95]);
  return { mean: rows.reduce((sum, row) => sum + row.d * row.w, 0) / total, median, p5, p95 };
}

/** Pieces of a profile of densities. */
export const PROFILE_PIECES = 20;

/** Densities, px/m, at 0, 5, 10, … 100 % of the surface; empty when no face has both areas. */
export function densityProfile(pixels: ArrayLike<number>, surface: ArrayLike<number>): number[] {
  const { rows, at } = sortedDensities(pixels, surface);
  return rows.length === 0 ? [] : at(Array.from({ length: PROFILE_PIECES + 1 }, (_, i) => i / PROFILE_PIECES));
}

/** Share of a profile's surface whose density is below `density`; linear inside the pieces. */
function shareBelow(profile: readonly number[], density: number): number {
  if (density <= profile[0]) return 0;
  if (density > profile[PROFILE_PIECES]) return 1;
  let low = 0;
  let high = PROFILE_PIECES;
  while (high - low > 1) {
    const mid = (low + high) >> 1;
    if (profile[mid] < density) low = mid;
    else high = mid;
  }
  const [a, b] = [profile[low], profile[high]];
  return (low + (b > a ? (density - a) / (b - a) : 1)) / PROFILE_PIECES;
}

/**
 * The density below which the given share of all surface lies ("Counts and sizes", lowest density: 5 %).
 * @param rows profiles with the factor by which all their densities have changed and their surface in m²
 */
export function densityAt(
  rows: readonly { profile: readonly number[]; factor: number; surface: number }[],
  share: number,
): number | null {
  const used = rows.filter((row) => row.profile.length > 0 && row.surface > 0 && row.factor > 0);
  if (used.length === 0) return null;
  let low = Math.min(...used.map((r) => r.profile[0] * r.factor));
  let high = Math.max(...used.map((r) => r.profile[PROFILE_PIECES] * r.factor));
  const total = used.reduce((sum, r) => sum + r.surface, 0);
  for (let i = 0; i < 48 && high > low * (1 + 1e-9); i++) {
    const mid = Math.sqrt(low * high);
    const below = used.reduce((sum, r) => sum + r.surface * shareBelow(r.profile, mid / r.factor), 0);
    if (below < share * total) low = mid;
    else high = mid;
  }
  return high;
}

/** Quarter octaves from 1 px/m upwards. */
export const DENSITY_BINS = 64;

/** Bin of a density, px/m; the ends take what lies beyond. */
export function densityBin(density: number): number {
  return Math.min(DENSITY_BINS - 1, Math.max(0, Math.floor(4 * Math.log2(density))));
}

/** Lower end of a bin, px/m. */
export function densityOfBin(bin: number): number {
  return 2 ** (bin / 4);
}
