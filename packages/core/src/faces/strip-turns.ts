import { boxAround } from '../math/box.ts';
import { cosineAt, type Surface, sideEnds } from '../mesh/surface.ts';
import type { Flat } from '../unwrap/flatten.ts';
import { directionsOf } from './lay-flat.ts';

/** Cosine of the bend from which two pieces meet at an edge, as an end does with a side: what runs another way there is meant. */
const EDGE = Math.cos((60 * Math.PI) / 180);
/** How much longer than wide a piece is that runs somewhere. */
const LONGISH = 1.5;
/** Degrees from which a piece runs another way than its neighbour. */
const TURNED = 45;

/**
 * Pieces of which more than half of the border, edges of 60° or more apart, runs along pieces that are turned by 45° or more against them. The angle is taken to the edge
 * that two pieces share, so that a bend there does not count.
 * @param flats each with the triangles of the surface, its u along the strip
 */
export function turnedPieces(surface: Surface, flats: readonly Flat[]): number {
  const { points, corners, twin } = surface;
  const pieceOf = new Int32Array(twin.length / 3).fill(-1);
  // Of each triangle, since a piece may go around corners.
  const along: number[][] = [];
  flats.forEach((flat, i) => {
    flat.triangles.forEach((triangle, j) => {
      pieceOf[triangle] = i;
      const local = flat.local.subarray(j * 3, j * 3 + 3);
      along[triangle] = directionsOf(surface, { ...flat, triangles: Uint32Array.of(triangle), local }).along;
    });
  });
  const border = flats.map(() => ({ turned: 0, all: 0 }));
  for (let side = 0; side < twin.length; side++) {
    if (twin[side] < 0) continue;
    const [t, o] = [Math.floor(side / 3), Math.floor(twin[side] / 3)];
    const [a, b] = [pieceOf[t], pieceOf[o]];
    if (a < 0 || b < 0 || a === b || cosineAt(surface, side, twin[side]) < EDGE) continue;
    const [p, q] = sideEnds(corners, side);
    const edge = [0, 1, 2].map((k) => points[q * 3 + k] - points[p * 3 + k]);
    const length = Math.sqrt(edge[0] ** 2 + edge[1] ** 2 + edge[2] ** 2);
    border[a].all += length;
    if (Math.abs(angleBetween(along[t], edge) - angleBetween(along[o], edge)) >= TURNED - 1e-3)
      border[a].turned += length;
  }
  return border.filter(({ turned, all }, i) => turned > all / 2 && longish(flats[i])).length;
}

/** Whether a piece has a way that it runs: caps that are nearly square have none. */
function longish(flat: Flat): boolean {
  const [u0, u1, v0, v1] = boxAround([flat.uv]);
  const ratio = (u1 - u0) / Math.max(1e-30, v1 - v0);
  return ratio >= LONGISH || ratio <= 1 / LONGISH;
}

/** Between two lines, degrees, 0 … 90. */
function angleBetween(a: readonly number[], b: readonly number[]): number {
  const dot = a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  const size = (v: readonly number[]) => Math.sqrt(v[0] ** 2 + v[1] ** 2 + v[2] ** 2);
  const cosine = Math.abs(dot) / Math.max(1e-30, size(a) * size(b));
  return (Math.acos(Math.min(1, cosine)) * 180) / Math.PI;
}
