import { twinHalfEdges } from '../math/half-edges.ts';
import { xorshift32 } from '../math/random.ts';
import { crossOf } from '../math/triangle.ts';
import { quadPairs } from '../mesh/quad-pairs.ts';
import type { FaceSet } from './faces.ts';
import type { FaceTopology } from './topology.ts';

/** Least cosine between the halves of a quad: more than 60° is an edge, not a fold. */
const BENT = 0.5;

/**
 * The other triangle of each face's quad, −1 where it is half of none. Files hold triangles alone, so that quads are found again by their
 * shape; see `quadPairs`.
 * @param positions (x, y, z) of each vertex @param indices three a face
 */
export function quadPartners(topology: FaceTopology, positions: Float32Array, indices: Uint32Array): Int32Array {
  const { places, placeCount, faces } = topology;
  const points = new Float64Array(placeCount * 3);
  indices.forEach((v, i) => {
    for (let k = 0; k < 3; k++) points[places[i] * 3 + k] = positions[v * 3 + k];
  });
  const areas = new Float64Array(faces);
  const normal = [0, 0, 0];
  for (let f = 0; f < faces; f++)
    areas[f] = crossOf(positions, indices[f * 3], indices[f * 3 + 1], indices[f * 3 + 2], normal) / 2;
  // Sides towards faces that are left out lead nowhere.
  const twin = twinHalfEdges(places).map((edge, i) => (topology.neighbour[i] < 0 ? -1 : edge));
  const surface = { points, corners: places, twin, normals: Float64Array.from(topology.normals), areas };
  const partner = new Int32Array(faces).fill(-1);
  for (const side of quadPairs(surface, BENT)) {
    const [face, other] = [Math.floor(side / 3), Math.floor(twin[side] / 3)];
    partner[face] = other;
    partner[other] = face;
  }
  return partner;
}

/** A set with the other halves of its quads. */
export const wholeQuads = (set: FaceSet, partner: Int32Array): FaceSet =>
  set.map((v, f) => (v || (partner[f] >= 0 && set[partner[f]]) ? 1 : 0));

/**
 * A share of a set, dealt out by a seed: as many as the share says, rounded.
 * @param partner counts and takes quads as one; null: triangles
 */
export function randomShare(set: FaceSet, share: number, seed: number, partner: Int32Array | null = null): FaceSet {
  const list: number[] = [];
  const second = (f: number) => partner !== null && partner[f] >= 0 && partner[f] < f && set[partner[f]] === 1;
  for (let f = 0; f < set.length; f++) if (set[f] && !second(f)) list.push(f);
  const count = Math.round(Math.min(1, Math.max(0, share)) * list.length);
  const next = xorshift32(seed, 0x2545f491);
  const out = new Uint8Array(set.length);
  for (let i = 0; i < count; i++) {
    const j = i + Math.floor(next() * (list.length - i));
    [list[i], list[j]] = [list[j], list[i]];
    out[list[i]] = 1;
  }
  return partner ? wholeQuads(out, partner) : out;
}
