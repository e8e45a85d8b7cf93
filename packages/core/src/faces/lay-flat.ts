import { boxAround } from '../math/box.ts';
import type { Surface } from '../mesh/surface.ts';
import { tightestDirection } from '../pack/directions.ts';
import type { TextureLay } from '../scene/texture-lay.ts';
import { type Flat, projected, relaxFlat, stretchOf } from '../unwrap/flatten.ts';
import { type Chosen, writableUv } from './face-table.ts';

/**
 * Writes a flat piece of a surface of chosen faces as UVs.
 * @param at (u, v) as it lies flat → UV, V down
 */
export function writeFlat(
  chosen: Chosen,
  flat: Flat,
  layOf: (face: number) => TextureLay,
  at: (u: number, v: number) => [number, number],
): void {
  flat.triangles.forEach((triangle, i) => {
    const face = chosen.faces[triangle];
    const lay = layOf(face);
    const uv = writableUv(chosen.table, lay.set);
    for (let k = 0; k < 3; k++) {
      const n = flat.local[i * 3 + k];
      uv.set(lay.uv(...at(flat.uv[2 * n], flat.uv[2 * n + 1])), (face * 3 + k) * 2);
    }
  });
}

/** Rounds of flattening a piece that is to stay whole. */
const ROUNDS = 30;

/** A piece in one, with as little stretch as that allows; `flipped` counts faces that came out turned over. */
export function flattenWhole(surface: Surface, triangles: Uint32Array): { flat: Flat; flipped: number; l2: number } {
  const seen = projected(surface, triangles);
  const relaxed = relaxFlat(surface, seen, ROUNDS, 200);
  const [stretch, b] = [stretchOf(surface, seen), stretchOf(surface, relaxed)];
  const better = b.flipped < stretch.flipped || (b.flipped === stretch.flipped && b.l2 <= stretch.l2);
  return better
    ? { flat: relaxed, flipped: b.flipped, l2: b.l2 }
    : { flat: seen, flipped: stretch.flipped, l2: stretch.l2 };
}

/** A flat piece with its places moved. */
export function mapFlat(flat: Flat, at: (u: number, v: number) => [number, number]): Flat {
  const uv = new Float64Array(flat.uv.length);
  for (let i = 0; i < uv.length; i += 2) uv.set(at(flat.uv[i], flat.uv[i + 1]), i);
  return { ...flat, uv };
}

/** A piece turned so that its least box lies along u, the long side first. */
export function turnedToLongSide(flat: Flat): Flat {
  const [c, s] = tightestDirection(flat.uv);
  const along = mapFlat(flat, (u, v) => [u * c + v * s, v * c - u * s]);
  const [u0, u1, v0, v1] = boxAround([along.uv]);
  return u1 - u0 >= v1 - v0 ? along : mapFlat(along, (u, v) => [v, -u]);
}

/** Directions on the surface of growing u and of growing v, by area, not of unit length. */
export function directionsOf(surface: Surface, flat: Flat): { along: number[]; across: number[] } {
  const along = [0, 0, 0];
  const across = [0, 0, 0];
  const { points, corners } = surface;
  flat.triangles.forEach((triangle, i) => {
    const [a, b, c] = [0, 1, 2].map((k) => corners[triangle * 3 + k] * 3);
    const [p, q, r] = [0, 1, 2].map((k) => flat.local[i * 3 + k] * 2);
    const [du1, dv1] = [flat.uv[q] - flat.uv[p], flat.uv[q + 1] - flat.uv[p + 1]];
    const [du2, dv2] = [flat.uv[r] - flat.uv[p], flat.uv[r + 1] - flat.uv[p + 1]];
    const det = du1 * dv2 - du2 * dv1;
    if (Math.abs(det) < 1e-18) return;
    const w = surface.areas[triangle] / det;
    for (let k = 0; k < 3; k++) {
      const [e, f] = [points[b + k] - points[a + k], points[c + k] - points[a + k]];
      along[k] += w * (e * dv2 - f * dv1);
      across[k] += w * (f * du1 - e * du2);
    }
  });
  return { along, across };
}
