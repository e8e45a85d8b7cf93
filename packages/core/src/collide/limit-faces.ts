import { convexHull } from './hull.ts';
import { orientedBox } from './oriented-box.ts';
import { facePlane, type Plane, type Polyhedron } from './polyhedron.ts';

/**
 * A solid of at most so many faces that holds a hull: the least oriented box, cut by the planes of the hull that take most away, one after
 * the other. It never cuts into the hull.
 * @param most at least 6
 */
export function limitFaces(hull: Polyhedron, most: number): Polyhedron {
  if (hull.faces.length <= most) return hull;
  const candidates = hull.faces.map((face) => facePlane(hull, face));
  let solid = orientedBox(hull.corners);
  const chosen: Plane[] = solid.faces.map((face) => facePlane(solid, face));
  while (chosen.length < most) {
    const best = deepestCut(solid, candidates);
    if (!best) break;
    chosen.push(best);
    solid = cutBy(chosen, hull.corners);
  }
  return solid;
}

/** The plane that some corner of a solid lies farthest outside of; null where all lie inside of all. */
function deepestCut({ corners }: Polyhedron, planes: readonly Plane[]): Plane | null {
  let best: Plane | null = null;
  let most = 1e-9;
  for (const plane of planes) {
    const [x, y, z, d] = plane;
    for (let i = 0; i < corners.length; i += 3) {
      const outside = x * corners[i] + y * corners[i + 1] + z * corners[i + 2] - d;
      if (outside > most) {
        most = outside;
        best = plane;
      }
    }
  }
  return best;
}

/**
 * What lies inside of all planes, which bound a solid around `inside`: corners of the hull of the dual points are its faces (duality of
 * half-spaces and points, de Berg et al., Computational Geometry, chapter 11).
 */
function cutBy(planes: readonly Plane[], inside: Float64Array): Polyhedron {
  const centre = [0, 1, 2].map((k) => {
    let sum = 0;
    for (let i = k; i < inside.length; i += 3) sum += inside[i];
    return sum / (inside.length / 3);
  });
  const dual = planes.flatMap(([x, y, z, d]) => {
    const away = Math.max(1e-12, d - (x * centre[0] + y * centre[1] + z * centre[2]));
    return [x / away, y / away, z / away];
  });
  const dualHull = convexHull(dual);
  const corners = dualHull.faces.flatMap((face) => {
    const [x, y, z, d] = facePlane(dualHull, face);
    return [x / d + centre[0], y / d + centre[1], z / d + centre[2]];
  });
  return convexHull(corners);
}
