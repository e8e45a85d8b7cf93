import { boxFrame } from './oriented-box.ts';
import type { Polyhedron } from './polyhedron.ts';

/** A sphere and what it holds. */
export interface Sphere {
  centre: [number, number, number];
  radius: number;
}

/** All points at most a radius away from a line. */
export interface Capsule {
  from: [number, number, number];
  to: [number, number, number];
  radius: number;
}

/** Rounds of the walk to the centre; it is within 1/1000 of the least radius then. */
const ROUNDS = 2000;

/**
 * The least sphere around points, to a thousandth: a centre that walks towards the farthest point in ever smaller steps (Bădoiu and Clarkson
 * 2003). The radius reaches every point exactly.
 * @param points (x, y, z)
 */
export function enclosingSphere(points: ArrayLike<number>): Sphere {
  const centre: [number, number, number] = [points[0], points[1], points[2]];
  for (let i = 1; i <= ROUNDS; i++) {
    const far = farthestFrom(points, centre).at;
    for (let k = 0; k < 3; k++) centre[k] += (points[3 * far + k] - centre[k]) / (i + 1);
  }
  return { centre, radius: farthestFrom(points, centre).distance };
}

function farthestFrom(points: ArrayLike<number>, [x, y, z]: readonly number[]): { at: number; distance: number } {
  let at = 0;
  let most = -1;
  for (let i = 0; i < points.length; i += 3) {
    const d = (points[i] - x) ** 2 + (points[i + 1] - y) ** 2 + (points[i + 2] - z) ** 2;
    if (d > most) {
      most = d;
      at = i / 3;
    }
  }
  return { at, distance: Math.sqrt(most) };
}

/** The least capsule around points whose axis lies along one of the sides of their least box. @param points (x, y, z) */
export function enclosingCapsule(points: ArrayLike<number>): Capsule {
  const frame = boxFrame(points);
  const all = [0, 1, 2].map((k) => capsuleAlong(points, frame.axes, k));
  return all.reduce((best, one) => (capsuleVolume(one) < capsuleVolume(best) ? one : best));
}

/** m³ */
export function capsuleVolume({ from, to, radius }: Capsule): number {
  const length = Math.hypot(to[0] - from[0], to[1] - from[1], to[2] - from[2]);
  return Math.PI * radius * radius * (length + (4 / 3) * radius);
}

function capsuleAlong(points: ArrayLike<number>, axes: readonly (readonly number[])[], k: number): Capsule {
  const [axis, u, v] = [axes[k], axes[(k + 1) % 3], axes[(k + 2) % 3]];
  const along = (d: readonly number[], i: number) => d[0] * points[i] + d[1] * points[i + 1] + d[2] * points[i + 2];
  // The sphere around the shadow of the points on the plane across the axis gives the line.
  const shadow: number[] = [];
  for (let i = 0; i < points.length; i += 3) shadow.push(along(u, i), along(v, i), 0);
  const { centre, radius } = enclosingSphere(shadow);
  let [low, high] = [Infinity, -Infinity];
  for (let i = 0; i < points.length; i += 3) {
    const out = Math.hypot(shadow[i] - centre[0], shadow[i + 1] - centre[1]);
    const cap = Math.sqrt(Math.max(0, radius * radius - out * out));
    const t = along(axis, i);
    low = Math.min(low, t + cap);
    high = Math.max(high, t - cap);
  }
  // Points that a sphere would hold: both ends are one place.
  if (low > high) low = high = (low + high) / 2;
  const at = (t: number) =>
    [0, 1, 2].map((c) => axis[c] * t + u[c] * centre[0] + v[c] * centre[1]) as [number, number, number];
  return { from: at(low), to: at(high), radius };
}

const AROUND = 16;
const RINGS = 4;

/** A sphere as a solid of triangles that holds it. */
export const sphereSolid = ({ centre, radius }: Sphere): Polyhedron =>
  capsuleSolid({ from: centre, to: centre, radius });

/** A capsule as a solid of triangles that holds it: rings of corners a little outside of its surface. */
export function capsuleSolid({ from, to, radius }: Capsule): Polyhedron {
  const length = Math.hypot(to[0] - from[0], to[1] - from[1], to[2] - from[2]);
  const axis = length > 0 ? [0, 1, 2].map((k) => (to[k] - from[k]) / length) : [0, 1, 0];
  const side = Math.abs(axis[0]) < 0.9 ? [1, 0, 0] : [0, 1, 0];
  const u = unitCross(axis, side);
  const v = unitCross(axis, u);
  // Flat faces between corners would cut into the round surface by this much.
  const grown = radius / (Math.cos(Math.PI / AROUND) * Math.cos(Math.PI / (4 * RINGS)));
  const corners: number[] = [];
  const ring = (end: readonly number[], angle: number) => {
    for (let i = 0; i < AROUND; i++) {
      const a = (2 * Math.PI * i) / AROUND;
      const out = grown * Math.cos(angle);
      for (let k = 0; k < 3; k++)
        corners.push(end[k] + grown * Math.sin(angle) * axis[k] + out * (Math.cos(a) * u[k] + Math.sin(a) * v[k]));
    }
  };
  const tip = (end: readonly number[], way: number) => {
    for (let k = 0; k < 3; k++) corners.push(end[k] + way * grown * axis[k]);
  };
  tip(from, -1);
  for (let r = RINGS - 1; r >= 0; r--) ring(from, (-Math.PI / 2) * (r / RINGS));
  const doubled = length > 0;
  for (let r = doubled ? 0 : 1; r < RINGS; r++) ring(to, (Math.PI / 2) * (r / RINGS));
  tip(to, 1);
  return { corners: Float64Array.from(corners), faces: ringFaces(corners.length / 3) };
}

/** Faces between a tip, rings of corners, and another tip. */
function ringFaces(count: number): number[][] {
  const rings = (count - 2) / AROUND;
  const at = (ring: number, i: number) => 1 + ring * AROUND + (i % AROUND);
  const faces: number[][] = [];
  for (let i = 0; i < AROUND; i++) {
    faces.push([0, at(0, i + 1), at(0, i)]);
    for (let r = 0; r + 1 < rings; r++) faces.push([at(r, i), at(r, i + 1), at(r + 1, i + 1), at(r + 1, i)]);
    faces.push([at(rings - 1, i), at(rings - 1, i + 1), count - 1]);
  }
  return faces;
}

function unitCross(a: readonly number[], b: readonly number[]): number[] {
  const c = [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
  const length = Math.hypot(...c) || 1;
  return c.map((value) => value / length);
}
