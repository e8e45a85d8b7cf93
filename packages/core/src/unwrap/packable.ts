import { tightestDirection } from '../pack/directions.ts';
import type { Flat } from './flatten.ts';

/** Longest side of a chart, as a share of the side of a square as large as the whole surface: longer ones hold up the scale of all others. */
export const LONGEST = 1.2;
/** Share of its least box that a chart fills, and share of the whole surface from which that is asked of it: small ones fit between others. */
const FULL = 0.5;
const LARGE = 0.04;

/** Sides of the least box around a flat chart, the longer one first, m. */
export function leastBox({ uv }: Flat): [number, number] {
  const [c, s] = tightestDirection(uv);
  const ends = [Infinity, -Infinity, Infinity, -Infinity];
  for (let i = 0; i < uv.length; i += 2) {
    const along = uv[i] * c + uv[i + 1] * s;
    const across = uv[i + 1] * c - uv[i] * s;
    ends[0] = Math.min(ends[0], along);
    ends[1] = Math.max(ends[1], along);
    ends[2] = Math.min(ends[2], across);
    ends[3] = Math.max(ends[3], across);
  }
  const sides = [ends[1] - ends[0], ends[3] - ends[2]];
  return [Math.max(...sides), Math.min(...sides)];
}

/** Whether a chart can be packed well beside others. @param area of the chart and of the whole surface, m² */
export function packsWell(flat: Flat, area: number, whole: number): boolean {
  const [long, short] = leastBox(flat);
  if (long > LONGEST * Math.sqrt(whole)) return false;
  return area < LARGE * whole || area >= FULL * long * short;
}
