import type { Condition, SingleCondition } from '@wembrel/core/decisions/recipe/condition';
import { andAlso } from './recipe-options.ts';

/** Places that are marked by hand: points and ways in the space of the model, so that they stay where they are under any UVs. */

export type Strokes = Extract<SingleCondition, { of: 'strokes' }>;
type Point = Strokes['points'][number];

/** The marked places within a condition; null where there are none. */
export function strokesIn(where: Condition | null): Strokes | null {
  if (!where) return null;
  if ('of' in where) return where.of === 'strokes' ? where : null;
  if ('use' in where) return null;
  const inner = 'not' in where ? [where.not] : 'all' in where ? where.all : where.any;
  for (const one of inner) {
    const found = strokesIn(one);
    if (found) return found;
  }
  return null;
}

/** The condition with other marked places; with none they are taken away, and new ones must hold as well as what holds already. */
export function withStrokes(where: Condition | null, points: readonly Point[]): Condition | null {
  const known = strokesIn(where);
  if (!known)
    return points.length === 0
      ? where
      : andAlso(where, { of: 'strokes', points: [...points], falloff: 0.5, mirror: [] });
  return replaced(where, known, points.length === 0 ? null : { ...known, points: [...points] });
}

function replaced(where: Condition | null, old: Strokes, by: Strokes | null): Condition | null {
  if (where === old) return by;
  if (!where || 'of' in where || 'use' in where) return where;
  if ('not' in where) {
    const not = replaced(where.not, old, by);
    return not && { not };
  }
  const list = ('all' in where ? where.all : where.any).flatMap((one) => replaced(one, old, by) ?? []);
  if (list.length < 2) return list[0] ?? null;
  return 'all' in where ? { ...where, all: list } : { any: list };
}

/** Without the points within a radius, mm; ways that went through them end there. */
export function erased(points: readonly Point[], [x, y, z]: readonly number[], radius: number): Point[] {
  const near = (p: Point) => Math.hypot(p.at[0] - x, p.at[1] - y, p.at[2] - z) * 1000 <= radius;
  return points.flatMap((point, i) => {
    if (near(point)) return [];
    const cut = point.joined && i > 0 && near(points[i - 1]);
    return [cut ? { ...point, joined: false } : point];
  });
}

/** A point more; nothing where it hardly moved. @param radius mm */
export function marked(
  points: readonly Point[],
  at: readonly [number, number, number],
  radius: number,
  joined: boolean,
): Point[] {
  const last = points.at(-1);
  if (joined && last && Math.hypot(...at.map((v, k) => v - last.at[k])) * 1000 < radius * 0.25) return [...points];
  const tidy = at.map((v) => Number(v.toFixed(5))) as [number, number, number];
  return [...points, { at: tidy, radius, joined: joined && last !== undefined }];
}
