import { type Surface, surfacePieces } from '../mesh/surface.ts';
import { axesAcross, type Flat, flatOf, toArea } from './flatten.ts';

export type Axis = 'x' | 'y' | 'z';

const AXES: Record<Axis, readonly number[]> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };

/** Faces of one label that hang together, each list with its label; labels are whole numbers. */
function pieces(surface: Surface, label: (t: number) => number): { triangles: Uint32Array; label: number }[] {
  const labels = Int32Array.from({ length: surface.areas.length }, (_, t) => label(t));
  return surfacePieces(surface, (s, o) => labels[Math.floor(s / 3)] === labels[Math.floor(o / 3)]).map((triangles) => ({
    triangles,
    label: labels[triangles[0]],
  }));
}

const normalAt = (surface: Surface, t: number) => [
  surface.normals[t * 3],
  surface.normals[t * 3 + 1],
  surface.normals[t * 3 + 2],
];

function along(surface: Surface, triangles: Uint32Array, direction: readonly number[]): Flat {
  const [u, v] = axesAcross(direction);
  const { points } = surface;
  const dot = (p: number, a: number[]) => points[p * 3] * a[0] + points[p * 3 + 1] * a[1] + points[p * 3 + 2] * a[2];
  return flatOf(surface, triangles, (p) => [dot(p, u), dot(p, v)]);
}

/** Every face seen along the one of six directions that it faces most; one chart for each piece that hangs together. */
export function boxCharts(surface: Surface): Flat[] {
  const label = (t: number) => {
    const normal = normalAt(surface, t);
    const k = [0, 1, 2].reduce((best, i) => (Math.abs(normal[i]) > Math.abs(normal[best]) + 1e-9 ? i : best), 0);
    return k * 2 + (normal[k] < 0 ? 1 : 0);
  };
  return pieces(surface, label).map(({ triangles, label: l }) => {
    const direction = [0, 0, 0];
    direction[l >> 1] = l & 1 ? -1 : 1;
    return along(surface, triangles, direction);
  });
}

/** Every face seen along one axis: those that face it, and those that face away, in charts of their own. */
export function planarCharts(surface: Surface, axis: Axis): Flat[] {
  const a = AXES[axis];
  const facing = (t: number) => normalAt(surface, t).reduce((sum, v, k) => sum + v * a[k], 0) >= 0;
  return pieces(surface, (t) => (facing(t) ? 0 : 1)).map(({ triangles, label }) =>
    along(surface, triangles, label === 0 ? a : a.map((v) => -v)),
  );
}

/** Cosine to the axis from which a face belongs to an end of the cylinder. */
const END = Math.SQRT1_2;

/**
 * The mantle unrolled around an axis through the middle of the box, in two halves; what faces along the axis seen along it. Lengths
 * around are those at the mean radius.
 */
export function cylindricalCharts(surface: Surface, axis: Axis): Flat[] {
  const { points, corners } = surface;
  const a = { x: 0, y: 1, z: 2 }[axis];
  const [b, c] = [(a + 1) % 3, (a + 2) % 3];
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i++) {
    low[i % 3] = Math.min(low[i % 3], points[i]);
    high[i % 3] = Math.max(high[i % 3], points[i]);
  }
  const middle = low.map((v, k) => (v + high[k]) / 2);
  const around = (p: number) => Math.atan2(points[p * 3 + c] - middle[c], points[p * 3 + b] - middle[b]);
  const centre = (t: number, k: number) =>
    (points[corners[t * 3] * 3 + k] + points[corners[t * 3 + 1] * 3 + k] + points[corners[t * 3 + 2] * 3 + k]) / 3;
  const label = (t: number) => {
    const normal = surface.normals[t * 3 + a];
    if (Math.abs(normal) > END) return normal > 0 ? 2 : 3;
    return centre(t, c) >= middle[c] ? 0 : 1;
  };
  return pieces(surface, label).map(({ triangles, label: l }) => {
    const axisOf = AXES[axis];
    if (l >= 2) return along(surface, triangles, l === 2 ? axisOf : axisOf.map((v) => -v));
    let radius = 0;
    for (const triangle of triangles)
      radius +=
        Math.sqrt((centre(triangle, b) - middle[b]) ** 2 + (centre(triangle, c) - middle[c]) ** 2) / triangles.length;
    return toArea(
      surface,
      flatOf(surface, triangles, (p) => {
        const raw = around(p);
        // The lower half goes on where the angle jumps from π to −π.
        const angle =
          l === 0 ? (raw < -Math.PI / 2 ? raw + 2 * Math.PI : raw) : raw > Math.PI / 2 ? raw - 2 * Math.PI : raw;
        return [angle * radius, points[p * 3 + a]];
      }),
    );
  });
}
