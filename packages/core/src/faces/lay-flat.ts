import { type Flat, projected, relaxFlat, stretchOf } from '../unwrap/flatten.ts';
import type { Surface } from '../unwrap/surface.ts';
import { type Chosen, writableUv } from './body.ts';

/**
 * Writes a flat piece of a surface of chosen faces as UVs.
 * @param at (u, v) as it lies flat → UV, V down
 */
export function writeFlat(c: Chosen, flat: Flat, set: number, at: (u: number, v: number) => [number, number]): void {
  const uv = writableUv(c.body, set);
  flat.triangles.forEach((t, i) => {
    for (let k = 0; k < 3; k++) {
      const n = flat.local[i * 3 + k];
      uv.set(at(flat.uv[2 * n], flat.uv[2 * n + 1]), (c.faces[t] * 3 + k) * 2);
    }
  });
}

/** Rounds of flattening a piece that is to stay whole. */
const ROUNDS = 30;

/** A piece in one, with as little stretch as that allows; `flipped` counts faces that came out turned over. */
export function flattenWhole(surface: Surface, triangles: Uint32Array): { flat: Flat; flipped: number; l2: number } {
  const seen = projected(surface, triangles);
  const relaxed = relaxFlat(surface, seen, ROUNDS, 200);
  const [a, b] = [stretchOf(surface, seen), stretchOf(surface, relaxed)];
  const better = b.flipped < a.flipped || (b.flipped === a.flipped && b.l2 <= a.l2);
  return better ? { flat: relaxed, flipped: b.flipped, l2: b.l2 } : { flat: seen, flipped: a.flipped, l2: a.l2 };
}

/** A flat piece with its places moved. */
export function mapFlat(flat: Flat, at: (u: number, v: number) => [number, number]): Flat {
  const uv = new Float64Array(flat.uv.length);
  for (let i = 0; i < uv.length; i += 2) uv.set(at(flat.uv[i], flat.uv[i + 1]), i);
  return { ...flat, uv };
}

/** Least and greatest u, least and greatest v. */
export function flatBox({ uv }: Flat): [number, number, number, number] {
  let [u0, u1, v0, v1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let i = 0; i < uv.length; i += 2) {
    u0 = Math.min(u0, uv[i]);
    u1 = Math.max(u1, uv[i]);
    v0 = Math.min(v0, uv[i + 1]);
    v1 = Math.max(v1, uv[i + 1]);
  }
  return [u0, u1, v0, v1];
}

/** A piece turned so that its least box lies along u, the long side first. */
export function turnedToLongSide(flat: Flat): Flat {
  const points = Array.from({ length: flat.uv.length / 2 }, (_, i) => [flat.uv[2 * i], flat.uv[2 * i + 1]] as const);
  const hull = convexHull(points);
  let best = { area: Infinity, c: 1, s: 0 };
  for (let i = 0; i < hull.length; i++) {
    const [a, b] = [hull[i], hull[(i + 1) % hull.length]];
    const l = Math.sqrt((b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2);
    if (l < 1e-12) continue;
    const [c, s] = [(b[0] - a[0]) / l, (b[1] - a[1]) / l];
    const [u0, u1, v0, v1] = boxOf(hull.map(([x, y]) => [x * c + y * s, y * c - x * s]));
    const area = (u1 - u0) * (v1 - v0);
    if (area < best.area * (1 - 1e-9)) best = { area, c, s };
  }
  const { c, s } = best;
  const along = mapFlat(flat, (u, v) => [u * c + v * s, v * c - u * s]);
  const [u0, u1, v0, v1] = flatBox(along);
  return u1 - u0 >= v1 - v0 ? along : mapFlat(along, (u, v) => [v, -u]);
}

function boxOf(points: readonly (readonly number[])[]): [number, number, number, number] {
  let [u0, u1, v0, v1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const [u, v] of points) {
    u0 = Math.min(u0, u);
    u1 = Math.max(u1, u);
    v0 = Math.min(v0, v);
    v1 = Math.max(v1, v);
  }
  return [u0, u1, v0, v1];
}

/** Corners of the convex hull, around (monotone chain). */
function convexHull(points: (readonly [number, number])[]): (readonly [number, number])[] {
  const sorted = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const half = (list: (readonly [number, number])[]) => {
    const out: (readonly [number, number])[] = [];
    for (const p of list) {
      while (out.length > 1) {
        const [a, b] = [out[out.length - 2], out[out.length - 1]];
        if ((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]) > 0) break;
        out.pop();
      }
      out.push(p);
    }
    out.pop();
    return out;
  };
  return [...half(sorted), ...half(sorted.toReversed())];
}

/** Directions on the surface of growing u and of growing v, by area, not of unit length. */
export function directionsOf(surface: Surface, flat: Flat): { along: number[]; across: number[] } {
  const along = [0, 0, 0];
  const across = [0, 0, 0];
  const { points, corners } = surface;
  flat.triangles.forEach((t, i) => {
    const [a, b, c] = [0, 1, 2].map((k) => corners[t * 3 + k] * 3);
    const [p, q, r] = [0, 1, 2].map((k) => flat.local[i * 3 + k] * 2);
    const [du1, dv1] = [flat.uv[q] - flat.uv[p], flat.uv[q + 1] - flat.uv[p + 1]];
    const [du2, dv2] = [flat.uv[r] - flat.uv[p], flat.uv[r + 1] - flat.uv[p + 1]];
    const det = du1 * dv2 - du2 * dv1;
    if (Math.abs(det) < 1e-18) return;
    const w = surface.areas[t] / det;
    for (let k = 0; k < 3; k++) {
      const [e, f] = [points[b + k] - points[a + k], points[c + k] - points[a + k]];
      along[k] += w * (e * dv2 - f * dv1);
      across[k] += w * (f * du1 - e * du2);
    }
  });
  return { along, across };
}
