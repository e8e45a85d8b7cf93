import { fitsPattern } from '../../decisions/patterns.ts';
import type { Vector } from '../../decisions/recipe/condition.ts';
import { hash01, hashText } from '../../math/hash.ts';
import type { RecipeSurface } from '../surface.ts';

/** Values that are the same all over a triangle: one a triangle, 0 … 1. */
export type TriangleValues = Float32Array;

const fits = (name: string, patterns: readonly string[]) => patterns.some((pattern) => fitsPattern(name, pattern));

function byPart(surface: RecipeSurface, value: (part: number) => number): TriangleValues {
  const values = surface.parts.map((_, part) => value(part));
  return Float32Array.from(surface.part, (part) => values[part]);
}

/** File name of a path without its ending. */
const stemOf = (path: string): string => path.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '');

/** 1 on what bears a name that fits. */
export function byName(
  surface: RecipeSurface,
  of: 'slot' | 'part' | 'model' | 'group',
  patterns: readonly string[],
): TriangleValues {
  const { parts, group, groups } = surface;
  if (of === 'group') {
    const chosen = groups.map((name) => fits(name, patterns));
    return Float32Array.from({ length: surface.count }, (_, t) =>
      Number(group !== null && (chosen[group[t]] ?? false)),
    );
  }
  return byPart(surface, (p) => {
    const part = parts[p];
    if (of === 'slot') return Number(fits(part.slot, patterns));
    if (of === 'part') return Number(fits(part.name, patterns));
    return Number(fits(part.model, patterns) || fits(stemOf(part.model), patterns));
  });
}

/** 1 on the islands that are nearest to some points. */
export function byPoint(surface: RecipeSurface, points: readonly Vector[]): TriangleValues {
  const chosen = new Set(points.map((point) => surface.island[nearestTriangle(surface, point)]));
  return Float32Array.from({ length: surface.count }, (_, t) => Number(chosen.has(surface.island[t])));
}

function nearestTriangle({ positions, count }: RecipeSurface, point: Vector): number {
  let [best, least] = [0, Infinity];
  for (let t = 0; t < count; t++) {
    const d = squaredDistance(positions, t * 9, point);
    if (d < least) [best, least] = [t, d];
  }
  return best;
}

/** Squared distance of a point to a triangle (Ericson 2005, "Closest Point on Triangle to Point"). @param o of its first coordinate */
export function squaredDistance(p: Float32Array, o: number, [x, y, z]: Vector): number {
  const at = (k: number): Vector => [p[o + k * 3], p[o + k * 3 + 1], p[o + k * 3 + 2]];
  const [a, b, c] = [at(0), at(1), at(2)];
  const minus = (v: Vector, w: Vector): Vector => [v[0] - w[0], v[1] - w[1], v[2] - w[2]];
  const dot = (v: Vector, w: Vector) => v[0] * w[0] + v[1] * w[1] + v[2] * w[2];
  const to = (v: Vector, e: Vector, s: number, f: Vector, t: number) => {
    const d: Vector = [v[0] + e[0] * s + f[0] * t - x, v[1] + e[1] * s + f[1] * t - y, v[2] + e[2] * s + f[2] * t - z];
    return dot(d, d);
  };
  const none: Vector = [0, 0, 0];
  const ab = minus(b, a);
  const ac = minus(c, a);
  const ap = minus([x, y, z], a);
  const d1 = dot(ab, ap);
  const d2 = dot(ac, ap);
  if (d1 <= 0 && d2 <= 0) return to(a, none, 0, none, 0);
  const bp = minus([x, y, z], b);
  const d3 = dot(ab, bp);
  const d4 = dot(ac, bp);
  if (d3 >= 0 && d4 <= d3) return to(b, none, 0, none, 0);
  const vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return to(a, ab, d1 / (d1 - d3), none, 0);
  const cp = minus([x, y, z], c);
  const d5 = dot(ab, cp);
  const d6 = dot(ac, cp);
  if (d6 >= 0 && d5 <= d6) return to(c, none, 0, none, 0);
  const vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return to(a, ac, d2 / (d2 - d6), none, 0);
  const va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) return to(b, minus(c, b), (d4 - d3) / (d4 - d3 + (d5 - d6)), none, 0);
  const k = 1 / (va + vb + vc);
  return to(a, ab, vb * k, ac, vc * k);
}

/** Islands are known again by where they lie, to a tenth of a millimetre: a value survives another unwrap that keeps them. */
const ISLAND_STEP = 1e-4;

/** A value by chance, 0 ≤ v < 1, one for each part, island or model. */
export function byChance(surface: RecipeSurface, per: 'part' | 'island' | 'model', seed: number): TriangleValues {
  const { parts } = surface;
  if (per === 'model') return byPart(surface, (p) => hash01(hashText(parts[p].model), seed));
  if (per === 'part') return byPart(surface, (p) => hash01(hashText(`${parts[p].model}\n${parts[p].name}`), seed));
  const middles = islandMiddles(surface);
  const values = new Map([...middles].map(([island, key]) => [island, hash01(hashText(key), seed)]));
  return Float32Array.from(surface.island, (island) => values.get(island) as number);
}

/** Mean of the corners of each island, as text. */
function islandMiddles({ island, positions, count }: RecipeSurface): Map<number, string> {
  const sums = new Map<number, [number, number, number, number]>();
  for (let t = 0; t < count; t++) {
    const sum = sums.get(island[t]) ?? [0, 0, 0, 0];
    sums.set(island[t], sum);
    for (let c = 0; c < 9; c++) sum[c % 3] += positions[t * 9 + c];
    sum[3] += 3;
  }
  return new Map(
    [...sums].map(([id, [x, y, z, n]]) => [id, [x, y, z].map((v) => Math.round(v / n / ISLAND_STEP)).join(' ')]),
  );
}
