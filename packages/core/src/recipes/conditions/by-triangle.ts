import { buildBvh } from '@wembrel/kernels/bvh';
import { ClosestPoint } from '@wembrel/kernels/closest-point';
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
  const { positions, count, island } = surface;
  const indices = Uint32Array.from({ length: count * 3 }, (_, i) => i);
  const closest = new ClosestPoint(buildBvh(positions.subarray(0, count * 9), indices, 1));
  const chosen = new Set(points.flatMap(([x, y, z]) => (closest.find(x, y, z) ? [island[closest.triangle]] : [])));
  return Float32Array.from({ length: count }, (_, t) => Number(chosen.has(island[t])));
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
