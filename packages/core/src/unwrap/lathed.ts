import { cosineAt, partOfSurface, type Surface, surfacePieces } from '../mesh/surface.ts';
import { type Flat, stretchOf } from './flatten.ts';
import { LONGEST, leastBox } from './packable.ts';
import { stripCharts } from './quads.ts';

/** Bends above which a turned body has an edge: what lies beyond is another piece. */
const EDGE = 50;

interface Limits {
  /** See `ChartOptions`. */
  stretch: number;
  spread: number;
  cutAngle: number;
  whole?: number;
}

/**
 * Turned bodies (lathed, tubes, rims): rows of quads that go around become rectangles, cut along one of their lines, where that stretches no
 * more than charts may.
 * @returns charts, and the triangles left over
 */
export function lathedCharts(surface: Surface, limits: Limits): { flats: Flat[]; rest: Uint32Array } {
  const least = Math.cos((Math.min(EDGE, limits.cutAngle) * Math.PI) / 180);
  const flats: Flat[] = [];
  const taken = new Uint8Array(surface.areas.length);
  const longest = limits.whole === undefined ? Infinity : LONGEST * Math.sqrt(limits.whole);
  for (const piece of surfacePieces(surface, (side, other) => cosineAt(surface, side, other) >= least)) {
    const part = partOfSurface(surface, piece);
    for (const flat of stripCharts(part).flats) {
      if (!goesAround(part, flat) || !within(part, flat, limits)) continue;
      if (leastBox(flat)[0] > longest) continue;
      const triangles = flat.triangles.map((triangle) => piece[triangle]);
      for (const triangle of triangles) taken[triangle] = 1;
      flats.push({ ...flat, triangles });
    }
  }
  return { flats, rest: Uint32Array.from(taken.keys()).filter((triangle) => !taken[triangle]) };
}

function within(surface: Surface, flat: Flat, { stretch, spread }: Limits): boolean {
  const { l2, low, high, flipped } = stretchOf(surface, flat);
  return flipped === 0 && l2 <= stretch && high <= spread * low;
}

/** Whether a chart has a seam within itself: a side whose two faces are both in it and lie apart. */
function goesAround(surface: Surface, { triangles, local }: Flat): boolean {
  const position = new Map<number, number>();
  triangles.forEach((triangle, i) => {
    position.set(triangle, i);
  });
  for (const [i, triangle] of triangles.entries())
    for (let k = 0; k < 3; k++) {
      const twin = surface.twin[triangle * 3 + k];
      const other = twin < 0 ? undefined : position.get(Math.floor(twin / 3));
      if (other === undefined) continue;
      const ends = [local[i * 3 + k], local[i * 3 + ((k + 1) % 3)]];
      if (!ends.includes(local[other * 3 + (twin % 3)])) return true;
    }
  return false;
}
