import { buildBvh } from '@wembrel/kernels/bvh';
import type { Bvh } from '@wembrel/kernels/bvh-layout';
import { type RayCaster, Sides } from '@wembrel/kernels/rays';
import { hash01, mixBits } from '../math/hash.ts';
import { boxOf, largestSide } from '../rays/target/mesh-box.ts';
import { faceNormal, type RayMesh } from '../rays/target/ray-mesh.ts';

/** Directions in which is looked from every point, over the whole sphere. */
const DIRECTIONS = 48;
/** Triangles with less of the whole surface are looked at from their middle alone: the others around them are looked at in other directions. */
const TINY = 5e-6;
/** Points of a larger triangle: its middle, near its corners, and one more for so much of the whole surface. */
const POINTS = 4;
const MOST_POINTS = 12;
const SHARE = 2e-4;
/** Rays closer to the plane of their triangle are not cast: along a flat surface nothing is seen of it. */
const LEAST_COSINE = 0.03;

/** Directions over the sphere, evenly (Fibonacci lattice, Swinbank & Purser 2006). */
function sphereDirections(count: number): Float64Array {
  const out = new Float64Array(count * 3);
  const turn = Math.PI * (3 - Math.sqrt(5));
  for (let i = 0; i < count; i++) {
    const y = 1 - (2 * (i + 0.5)) / count;
    const r = Math.sqrt(1 - y * y);
    out.set([r * Math.cos(turn * i), y, r * Math.sin(turn * i)], i * 3);
  }
  return out;
}

/**
 * What hides surfaces, ready to be cast at: opaque triangles, those that are drawn from both sides with both. Alpha-tested and blended ones hide nothing.
 * @param slots workers that cast
 */
export function hidingBvh(mesh: RayMesh, slots: number): Bvh {
  const indices: number[] = [];
  for (let t = 0; t < mesh.triangles; t++) {
    const { look } = mesh.sources[mesh.sourceOf[t]];
    if (look.alphaMode !== 'OPAQUE') continue;
    const [a, b, c] = mesh.indices.subarray(t * 3, t * 3 + 3);
    indices.push(a, b, c);
    if (look.doubleSided) indices.push(a, c, b);
  }
  return buildBvh(mesh.positions, indices, slots);
}

/** One triangle that has not been seen yet: what is left to try. */
interface Hidden {
  triangle: number;
  points: number;
  /** Next point and direction, as one number. */
  next: number;
}

/**
 * Marks triangles that some ray from outside reaches: rays are cast from points of each one outward, until one meets nothing. As on screen, only
 * what would be drawn hides: single-sided faces from their front. Single-sided triangles are looked at from their front as well.
 * @param range first triangle and the one after the last @param seen by triangle, 1 where it is seen; written to
 */
export function markSeen(
  mesh: RayMesh,
  caster: RayCaster,
  range: readonly [from: number, to: number],
  seen: Uint8Array,
  cancelled: () => boolean = () => false,
): void {
  const directions = sphereDirections(DIRECTIONS);
  const lift = largestSide(boxOf([mesh])) * 1e-5;
  const total = wholeArea(mesh);
  const n = [0, 0, 0];
  let hidden: Hidden[] = [];
  for (let triangle = range[0]; triangle < range[1]; triangle++) {
    const area = faceNormal(mesh, triangle, n);
    if (area > 0) hidden.push({ triangle, points: pointsFor(area / total), next: 0 });
  }
  const p = [0, 0, 0];
  while (hidden.length > 0 && !cancelled()) {
    for (let first = 0; first < hidden.length; first += BATCH) {
      const batch = hidden.slice(first, first + BATCH);
      caster.clear();
      const cast: number[] = [];
      batch.forEach((one, i) => {
        const { triangle: t } = one;
        faceNormal(mesh, t, n);
        const { doubleSided } = mesh.sources[mesh.sourceOf[t]].look;
        // Every triangle begins elsewhere in the list, so that few directions decide most.
        const start = mixBits(t) % DIRECTIONS;
        for (; one.next < one.points * DIRECTIONS; one.next++) {
          const d = ((Math.floor(one.next / one.points) * 29 + start) % DIRECTIONS) * 3;
          const [x, y, z] = directions.subarray(d, d + 3);
          const cosine = x * n[0] + y * n[1] + z * n[2];
          if (doubleSided ? Math.abs(cosine) < LEAST_COSINE : cosine < LEAST_COSINE) continue;
          pointOf(mesh, t, one.next % one.points, p);
          const side = cosine < 0 ? -lift : lift;
          caster.add(p[0] + n[0] * side, p[1] + n[1] * side, p[2] + n[2] * side, x, y, z, 0, Infinity);
          cast.push(i);
          one.next++;
          break;
        }
      });
      caster.closest(Sides.back);
      cast.forEach((i, ray) => {
        if (caster.triangle(ray) < 0) seen[batch[i].triangle] = 1;
      });
    }
    hidden = hidden.filter((one) => seen[one.triangle] === 0 && one.next < one.points * DIRECTIONS);
  }
}

/** @param share of a triangle in the whole surface */
const pointsFor = (share: number): number =>
  share < TINY ? 1 : Math.min(MOST_POINTS, POINTS + Math.floor(share / SHARE));

/** Rays of one batch; the caster takes no more. */
const BATCH = 4096;

function wholeArea(mesh: RayMesh): number {
  const n = [0, 0, 0];
  let sum = 0;
  for (let t = 0; t < mesh.triangles; t++) sum += faceNormal(mesh, t, n);
  return sum;
}

/** A point of a triangle, by number: its middle, three near its corners, then others by chance. */
function pointOf({ positions, indices }: RayMesh, t: number, number: number, out: number[]): void {
  let [b, c] = [1 / 3, 1 / 3];
  if (number > 0 && number < POINTS) {
    b = number === 2 ? 0.9 : 0.05;
    c = number === 3 ? 0.9 : 0.05;
  } else if (number >= POINTS) {
    const r = Math.sqrt(hash01(t, number * 2));
    const s = hash01(t, number * 2 + 1);
    b = r * (1 - s);
    c = r * s;
  }
  for (let k = 0; k < 3; k++)
    out[k] =
      positions[indices[t * 3] * 3 + k] * (1 - b - c) +
      positions[indices[t * 3 + 1] * 3 + k] * b +
      positions[indices[t * 3 + 2] * 3 + k] * c;
}

/** Triangles that touch a seen one are kept as well: a slit that no ray went through must not open a hole. @param places of the vertices */
export function withNeighbours(
  mesh: Pick<RayMesh, 'indices' | 'triangles'>,
  places: Uint32Array,
  seen: Uint8Array,
): Uint8Array {
  const touched = new Uint8Array(places.length);
  for (let t = 0; t < mesh.triangles; t++)
    if (seen[t]) for (let k = 0; k < 3; k++) touched[places[mesh.indices[t * 3 + k]]] = 1;
  return Uint8Array.from(seen, (one, t) =>
    one || [0, 1, 2].some((k) => touched[places[mesh.indices[t * 3 + k]]]) ? 1 : 0,
  );
}
