import { convexHull } from './hull.ts';
import { BOX_FACES, facePlane, type Polyhedron } from './polyhedron.ts';

type Vec3 = readonly [number, number, number];

const dot = (a: Vec3, b: Vec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: Vec3, b: Vec3): Vec3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (v: Vec3): Vec3 => {
  const length = Math.hypot(...v) || 1;
  return [v[0] / length, v[1] / length, v[2] / length];
};

/** Three axes at right angles, and the least and greatest distance along each. */
export interface BoxFrame {
  axes: readonly [Vec3, Vec3, Vec3];
  low: Vec3;
  high: Vec3;
}

/** Faces that are tried; of hulls with more, the largest are alike. */
const MOST_FACES = 400;

/**
 * The least box around points whose one side lies on a face of their hull and another along one of that face's edges, or along the axes where
 * that is no larger. (The least of all boxes may lie on edges alone; it is rarely smaller by more than some percent.)
 * @param points (x, y, z)
 */
export function boxFrame(points: ArrayLike<number>): BoxFrame {
  const hull = convexHull(points);
  let best = frameAlong(hull.corners, [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ]);
  let least = volumeOf(best) * (1 - 1e-9);
  const step = Math.max(1, Math.ceil(hull.faces.length / MOST_FACES));
  for (let f = 0; f < hull.faces.length; f += step) {
    const [nx, ny, nz] = facePlane(hull, hull.faces[f]);
    const normal: Vec3 = [nx, ny, nz];
    for (const along of edgeDirections(hull, hull.faces[f], normal)) {
      const frame = frameAlong(hull.corners, [normal, along, cross(normal, along)]);
      const v = volumeOf(frame);
      if (v < least) {
        least = v;
        best = frame;
      }
    }
  }
  return best;
}

/** The box of a frame as a solid. */
export function orientedBox(points: ArrayLike<number>): Polyhedron {
  const { axes, low, high } = boxFrame(points);
  const corners: number[] = [];
  for (const x of [low[0], high[0]])
    for (const y of [low[1], high[1]])
      for (const z of [low[2], high[2]])
        for (let k = 0; k < 3; k++) corners.push(axes[0][k] * x + axes[1][k] * y + axes[2][k] * z);
  return {
    corners: Float64Array.from(corners),
    faces: BOX_FACES,
  };
}

const volumeOf = ({ low, high }: BoxFrame): number => (high[0] - low[0]) * (high[1] - low[1]) * (high[2] - low[2]);

/** Directions in the plane of a face along the edges of its own outline. */
function edgeDirections({ corners }: Polyhedron, face: readonly number[], normal: Vec3): Vec3[] {
  return face.map((a, i) => {
    const b = face[(i + 1) % face.length];
    const edge: Vec3 = [
      corners[3 * b] - corners[3 * a],
      corners[3 * b + 1] - corners[3 * a + 1],
      corners[3 * b + 2] - corners[3 * a + 2],
    ];
    const away = dot(edge, normal);
    return unit([edge[0] - away * normal[0], edge[1] - away * normal[1], edge[2] - away * normal[2]]);
  });
}

function frameAlong(points: Float64Array, axes: readonly [Vec3, Vec3, Vec3]): BoxFrame {
  const low: [number, number, number] = [Infinity, Infinity, Infinity];
  const high: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const v = dot(axes[k], [points[i], points[i + 1], points[i + 2]]);
      low[k] = Math.min(low[k], v);
      high[k] = Math.max(high[k], v);
    }
  return { axes, low, high };
}
