import { risingOrder } from '../math/rising-order.ts';

/** Area-weighted texel density, px per metre ("Counts and sizes", Texel density). */
export interface Density {
  mean: number;
  median: number;
  p5: number;
  p95: number;
}

/** Faces by density: which they are, and the whole of their surface. */
interface SortedDensities {
  /** Density and surface of each, the least dense first. */
  density: Float64Array;
  surface: Float64Array;
  total: number;
}

/**
 * @param pixels texel area of each face, px² @param surface its area in m² after node scale
 * @returns the faces that have both
 */
export function sortedDensities(pixels: ArrayLike<number>, surface: ArrayLike<number>): SortedDensities {
  const all = new Float64Array(pixels.length);
  const surfaces = new Float64Array(pixels.length);
  let count = 0;
  let total = 0;
  for (let i = 0; i < pixels.length; i++) {
    if (!(surface[i] > 0) || !(pixels[i] > 0)) continue;
    all[count] = Math.sqrt(pixels[i] / surface[i]);
    surfaces[count++] = surface[i];
    total += surface[i];
  }
  const order = risingOrder(all.subarray(0, count));
  const sorted = { density: new Float64Array(count), surface: new Float64Array(count), total };
  for (let k = 0; k < count; k++) {
    sorted.density[k] = all[order[k]];
    sorted.surface[k] = surfaces[order[k]];
  }
  return sorted;
}

/** Densities at rising shares of the surface. */
function densitiesAt({ density, surface, total }: SortedDensities, shares: readonly number[]): number[] {
  let w = 0;
  let i = -1;
  return shares.map((share) => {
    while (i < 0 || (w < share * total && i < density.length - 1)) w += surface[++i];
    return density[i];
  });
}

/** @returns null when no face has both areas */
export function densityOf(faces: SortedDensities): Density | null {
  const { density, surface, total } = faces;
  if (density.length === 0) return null;
  const [p5, median, p95] = densitiesAt(faces, [0.05, 0.5, 0.95]);
  let sum = 0;
  for (let i = 0; i < density.length; i++) sum += density[i] * surface[i];
  return { mean: sum / total, median, p5, p95 };
}

/** Pieces of a profile of densities. */
export const PROFILE_PIECES = 20;

/** Densities, px/m, at 0, 5, 10, … 100 % of the surface; empty when no face has both areas. */
export function densityProfile(faces: SortedDensities): number[] {
  if (faces.density.length === 0) return [];
  return densitiesAt(
    faces,
    Array.from({ length: PROFILE_PIECES + 1 }, (_, i) => i / PROFILE_PIECES),
  );
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
