/// <reference path="./quickhull3d.d.ts" />
// The package's main file leaves out endings, which only bundlers find.
import quickHull from 'quickhull3d/dist/quickhull3d.js';
import { directions, farthest } from './directions.ts';
import { BOX_FACES, extent, facePlane, type Polyhedron, volume } from './polyhedron.ts';

type Point = [number, number, number];

/** Points from which a rough hull is worth building first, to leave out what lies inside it. */
const MANY = 2000;

/** How thick flat points are made, as a share of their size: nothing collides with a surface without volume. */
const THICKNESS = 1e-3;

/**
 * The convex hull of points, with coplanar triangles joined to faces (Barber, Dobkin, Huhdanpaa 1996, by a library). Points that lie on one
 * plane, line or place get a thickness of a thousandth of their size.
 * @param points (x, y, z), m; at least one
 * @returns a solid with volume that holds all points
 */
export function convexHull(points: ArrayLike<number>): Polyhedron {
  return hullOf(outerPoints(points)) ?? hullOf(thickened(points)) ?? cube(points);
}

function hullOf(points: Point[]): Polyhedron | null {
  if (points.length < 4) return null;
  try {
    return compact(points, quickHull(points, { skipTriangulation: true }));
  } catch {
    // The library refuses points on one plane.
    return null;
  }
}

/** Only the corners that faces use. Null where it encloses nothing. */
function compact(points: readonly number[][], faces: readonly number[][]): Polyhedron | null {
  if (faces.length < 4) return null;
  const at = new Map<number, number>();
  const renamed = faces.map((face) =>
    face.map((corner) => {
      const known = at.get(corner);
      if (known !== undefined) return known;
      at.set(corner, at.size);
      return at.size - 1;
    }),
  );
  return { corners: Float64Array.from([...at.keys()].flatMap((corner) => points[corner])), faces: renamed };
}

/** The points that may be corners: of many, those that a rough hull does not hold. */
function outerPoints(points: ArrayLike<number>): Point[] {
  const all = asPoints(points);
  if (all.length < MANY) return all;
  const extremes = extremePoints(points, 128);
  const rough = hullOf(extremes.map((i) => all[i]));
  if (!rough) return all;
  const planes = rough.faces.map((face) => facePlane(rough, face));
  const kept = new Set(extremes);
  all.forEach(([x, y, z], i) => {
    if (planes.some(([nx, ny, nz, d]) => nx * x + ny * y + nz * z > d)) kept.add(i);
  });
  return [...kept].sort((a, b) => a - b).map((i) => all[i]);
}

const asPoints = (points: ArrayLike<number>): Point[] =>
  Array.from({ length: points.length / 3 }, (_, i) => [points[3 * i], points[3 * i + 1], points[3 * i + 2]]);

const extremePoints = (points: ArrayLike<number>, count: number): number[] => [
  ...new Set(directions(count).map((direction) => farthest(points, direction))),
];

/** Volume of the hull of some extreme points, m³: a little less than that of the hull, and quick. @param points (x, y, z) */
export function roughVolume(points: ArrayLike<number>): number {
  const all = asPoints(points);
  const hull = hullOf(all.length < 64 ? all : extremePoints(points, 48).map((i) => all[i]));
  return hull ? volume(hull) : 0;
}

/** Each point at eight corners of a small cube around it. */
function thickened(points: ArrayLike<number>): Point[] {
  const half = Math.max(extent(points) * THICKNESS, 1e-6) / 2;
  const out = outerPoints(points);
  return out.flatMap(([x, y, z]) =>
    [-1, 1].flatMap((sx) =>
      [-1, 1].flatMap((sy) => [-1, 1].map((sz): Point => [x + sx * half, y + sy * half, z + sz * half])),
    ),
  );
}

/** The cube around one place. */
function cube(points: ArrayLike<number>): Polyhedron {
  const corners = thickened(points).slice(0, 8).flat();
  return {
    corners: Float64Array.from(corners),
    faces: BOX_FACES,
  };
}
