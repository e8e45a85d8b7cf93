import { QUARTERS } from './directions.ts';
import type { Turns } from './rasterise.ts';

/**
 * An affine map that turns, scales and moves: (x, y) → (scale · (c · x − s · y) + x0, scale · (s · x + c · y) + y0). Quarter turns have
 * c and s of 0 and ±1, so that whole texels stay whole.
 */
export interface PlacedMap {
  c: number;
  s: number;
  scale: number;
  x0: number;
  y0: number;
}

/** How a box is turned: by quarters, or by an angle given as cosine and sine; `turns` is 0 then. */
export interface Turned {
  turns: Turns;
  direction?: readonly [cosine: number, sine: number];
}

type Box = readonly [width: number, height: number];

/** Size of the box around a turned one, in its unit. */
export function turnedBox([w, h]: Box, turned: Turned): [width: number, height: number] {
  if (turned.direction) {
    const [c, s] = turned.direction.map(Math.abs);
    return [c * w + s * h, s * w + c * h];
  }
  return turned.turns % 2 === 0 ? [w, h] : [h, w];
}

/**
 * Turns a box that starts at the origin so that what it becomes starts there too.
 * @param box px, at the scale of the map
 * @param scale px per px of the points that are mapped
 */
export function mapInBox(box: Box, turned: Turned, scale = 1): PlacedMap {
  const [w, h] = box;
  if (turned.direction) {
    const [c, s] = turned.direction;
    const [tw, th] = turnedBox(box, turned);
    return { c, s, scale, x0: (tw - (c * w - s * h)) / 2, y0: (th - (s * w + c * h)) / 2 };
  }
  const { turns } = turned;
  const [c, s] = QUARTERS[turns];
  return { c, s, scale, x0: turns === 1 ? h : turns === 2 ? w : 0, y0: turns === 2 ? h : turns === 3 ? w : 0 };
}

/** How a direction is written: as quarter turns where it is one within rounding. */
export function turnedBy(c: number, s: number): Turned {
  const turns = QUARTERS.findIndex(([qc, qs]) => Math.abs(qc - c) < 1e-9 && Math.abs(qs - s) < 1e-9);
  return turns < 0 ? { turns: 0, direction: [c, s] } : { turns: turns as Turns };
}

/** The point to which a map takes (x, y). */
export function mapPoint({ c, s, scale, x0, y0 }: PlacedMap, x: number, y: number): [number, number] {
  const [px, py] = [x * scale, y * scale];
  return [c * px - s * py + x0, s * px + c * py + y0];
}

/** All points of a shape, x and y in turn. */
export function mapPoints({ c, s, scale, x0, y0 }: PlacedMap, points: ArrayLike<number>): Float64Array {
  const out = new Float64Array(points.length);
  for (let i = 0; i < points.length; i += 2) {
    const [x, y] = [points[i] * scale, points[i + 1] * scale];
    out[i] = c * x - s * y + x0;
    out[i + 1] = s * x + c * y + y0;
  }
  return out;
}

/** One map that does the second after the first. */
export function mapAfter(first: PlacedMap, second: PlacedMap): PlacedMap {
  const [x0, y0] = mapPoint(second, first.x0, first.y0);
  return {
    c: second.c * first.c - second.s * first.s,
    s: second.s * first.c + second.c * first.s,
    scale: first.scale * second.scale,
    x0,
    y0,
  };
}

/** The same map, then moved. */
export const movedMap = (map: PlacedMap, x: number, y: number): PlacedMap => ({
  ...map,
  x0: map.x0 + x,
  y0: map.y0 + y,
});
