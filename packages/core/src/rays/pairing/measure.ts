import type { Bvh } from '@wembrel/kernels/bvh-layout';
import { ClosestPoint } from '@wembrel/kernels/closest-point';
import { DisjointSet } from '../../math/disjoint-set.ts';
import { placesOf } from '../target/casting.ts';
import type { LowTarget } from '../target/low-target.ts';
import { boxOf, largestSide } from '../target/mesh-box.ts';
import { faceNormal, type RayMesh } from '../target/ray-mesh.ts';
import { spreadPoints } from '../target/spread-points.ts';

/** Reaches of a pairing, m. */
export interface Reaches {
  outward: number;
  inward: number;
}

/** Points of either surface that are measured at most. */
const MOST = 3_000;
const PERCENTILE = 0.995;
const MORE = 1.2;

/** Connected pieces of a mesh: those that share a place are one; the piece of each triangle. */
export function piecesOf(mesh: RayMesh): { of: Uint32Array; count: number } {
  const places = placesOf(mesh);
  const sets = new DisjointSet(places.length);
  for (let i = 0; i < mesh.indices.length; i += 3) {
    sets.join(places[mesh.indices[i]], places[mesh.indices[i + 1]]);
    sets.join(places[mesh.indices[i]], places[mesh.indices[i + 2]]);
  }
  const number = new Int32Array(places.length).fill(-1);
  const of = new Uint32Array(new SharedArrayBuffer(mesh.triangles * 4));
  let count = 0;
  for (let t = 0; t < mesh.triangles; t++) {
    const root = sets.find(places[mesh.indices[t * 3]]);
    if (number[root] < 0) number[root] = count++;
    of[t] = number[root];
  }
  return { of, count };
}

/** px a metre of each triangle of a target; 0 where it has no area. */
export function trianglesDensity(target: LowTarget): Float32Array {
  const out = new Float32Array(new SharedArrayBuffer(target.count * 4));
  const n = [0, 0, 0];
  const { place: p } = target;
  for (let t = 0; t < target.count; t++) {
    const o = t * 6;
    const flat = Math.abs((p[o + 2] - p[o]) * (p[o + 5] - p[o + 1]) - (p[o + 4] - p[o]) * (p[o + 3] - p[o + 1]));
    const area = faceNormal(target.mesh, t, n);
    out[t] = area > 0 ? Math.sqrt(flat / area) : 0;
  }
  return out;
}

/**
 * Reaches from how far the surfaces lie apart: closest points from the high-poly's vertices to the low-poly and from points spread over the low-poly to the
 * high-poly, outward and inward apart; the larger 99.5th percentile, and a fifth more. Method: reference, "Ray bake".
 */
export function measureReaches(high: RayMesh, highBvh: Bvh, low: RayMesh, lowBvh: Bvh): Reaches {
  const n = [0, 0, 0];
  const onLow = new ClosestPoint(lowBvh);
  const fromHigh: Apart = { outward: [], inward: [] };
  const vertices = usedVertices(high);
  const step = Math.max(1, Math.floor(vertices.length / MOST));
  for (let i = 0; i < vertices.length; i += step) {
    const v = vertices[i];
    const p = high.positions.subarray(v * 3, v * 3 + 3);
    if (!onLow.find(p[0], p[1], p[2])) continue;
    faceNormal(low, onLow.triangle, n);
    note(fromHigh, n, p, onLow);
  }
  const onHigh = new ClosestPoint(highBvh);
  const fromLow: Apart = { outward: [], inward: [] };
  const p = [0, 0, 0];
  for (const { triangle: t, b1, b2 } of spreadPoints(low, MOST)) {
    for (let k = 0; k < 3; k++) {
      const at = (c: number) => low.positions[low.indices[t * 3 + c] * 3 + k];
      p[k] = (1 - b1 - b2) * at(0) + b1 * at(1) + b2 * at(2);
    }
    if (!onHigh.find(p[0], p[1], p[2])) continue;
    faceNormal(low, t, n);
    note(fromLow, n, [onHigh.x, onHigh.y, onHigh.z], { x: p[0], y: p[1], z: p[2] });
  }
  const side = largestSide(boxOf([high, low]));
  // A thousandth of the whole is the least: surfaces that lie on each other still need rays of some length.
  const reach = (k: keyof Apart) => Math.max(percentile(fromHigh[k]), percentile(fromLow[k])) * MORE + side * 1e-3;
  return { outward: reach('outward'), inward: reach('inward') };
}

/** Vertices that some triangle has: others are nowhere on the surface. */
function usedVertices({ positions, indices }: RayMesh): Uint32Array {
  const used = new Uint8Array(positions.length / 3);
  for (const v of indices) used[v] = 1;
  return Uint32Array.from(used.keys()).filter((v) => used[v] === 1);
}

/** Distances from points to the other surface, by the side on which the high-poly lies, m. */
interface Apart {
  outward: number[];
  inward: number[];
}

/** Adds the distance of two nearest points. @param n normal of the low-poly */
function note(to: Apart, n: number[], h: ArrayLike<number>, l: { x: number; y: number; z: number }): void {
  const x = h[0] - l.x;
  const y = h[1] - l.y;
  const z = h[2] - l.z;
  const d = Math.sqrt(x * x + y * y + z * z);
  if (x * n[0] + y * n[1] + z * n[2] >= 0) to.outward.push(d);
  else to.inward.push(d);
}

function percentile(values: number[]): number {
  values.sort((a, b) => a - b);
  return values.length > 0 ? values[Math.min(values.length - 1, Math.floor(PERCENTILE * values.length))] : 0;
}
