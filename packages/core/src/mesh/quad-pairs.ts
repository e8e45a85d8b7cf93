import { angleAt } from '../math/triangle.ts';
import { cosineAt, type Surface } from './surface.ts';

/** Greatest deviation of a corner of a quad from a right angle. */
const SKEW = (65 * Math.PI) / 180;

/**
 * Two triangles each that make a quad: pairs with corners nearest to right angles first, so that the quads of a grid, of bent rows and of mitred
 * corners are found again whichever way they were halved.
 * @param bent least cosine between the two halves
 * @returns of each quad its diagonal, the side of the triangle that comes first; in the order of those triangles
 */
export function quadPairs(surface: Surface, bent: number): number[] {
  const { twin, areas } = surface;
  const angles = cornerAngles(surface);
  const next = (s: number, by: number) => s - (s % 3) + ((s + by) % 3);
  const found: { side: number; cost: number }[] = [];
  for (let s = 0; s < twin.length; s++) {
    const o = twin[s];
    if (o < s || !(areas[Math.floor(s / 3)] > 0) || !(areas[Math.floor(o / 3)] > 0)) continue;
    if (cosineAt(surface, s, o) < bent) continue;
    // Corners: at the two ends of the diagonal, and the two across it.
    const four = [
      angles[s] + angles[next(o, 1)],
      angles[next(s, 1)] + angles[o],
      angles[next(s, 2)],
      angles[next(o, 2)],
    ].map((a) => Math.abs(a - Math.PI / 2));
    if (Math.max(...four) > SKEW) continue;
    found.push({ side: s, cost: four.reduce((sum, d) => sum + d * d, 0) });
  }
  // Rounding must not decide between halves of equal quads.
  found.sort((a, b) => Math.round((a.cost - b.cost) * 1e6) || a.side - b.side);
  const taken = new Uint8Array(areas.length);
  const out: number[] = [];
  for (const { side } of found) {
    const [t, o] = [Math.floor(side / 3), Math.floor(twin[side] / 3)];
    if (taken[t] || taken[o]) continue;
    taken[t] = 1;
    taken[o] = 1;
    out.push(side);
  }
  return out.sort((a, b) => a - b);
}

function cornerAngles({ points, corners }: Surface): Float64Array {
  return Float64Array.from(corners, (at, c) => {
    const first = c - (c % 3);
    return angleAt(points, at, corners[first + ((c + 1) % 3)], corners[first + ((c + 2) % 3)]);
  });
}
