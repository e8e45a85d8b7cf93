import { uvIslands } from '@wembrel/core/mesh/islands';
import { facesOfColour, type Pixels } from '@wembrel/core/select/colour';
import {
  connectedFaces,
  type FaceSet,
  flatFaces,
  grown,
  labelledFaces,
  loopFaces,
  shrunk,
} from '@wembrel/core/select/faces';
import { type FaceTopology, faceTopology } from '@wembrel/core/select/topology';

/** What is taken with a click. */
export type Take = 'face' | 'piece' | 'island' | 'slot' | 'flat' | 'loop' | 'colour';

export type FacesRequest =
  | {
      type: 'load';
      positions: Float32Array;
      bodies: Uint32Array;
      indices: Uint32Array;
      uv: Float32Array;
      slots: Int32Array;
    }
  | { type: 'picture'; slot: number; picture: Pixels }
  | { type: 'take'; id: number; how: Take; face: number; side: number; degrees: number; range: number }
  | { type: 'grow' | 'shrink'; id: number; set: FaceSet };

export type FacesAnswer = { id: number; set: FaceSet; took: number };

let data: Extract<FacesRequest, { type: 'load' }> | null = null;
let topology: FaceTopology | null = null;
let islands: Uint32Array | null = null;
const pictures = new Map<number, Pixels>();

function topologyOf(d: NonNullable<typeof data>): FaceTopology {
  topology ??= faceTopology(d.positions, d.indices, d.bodies);
  return topology;
}

/** Island of each face: corners that agree in place and UV are one. */
function islandsOf(d: NonNullable<typeof data>): Uint32Array {
  if (islands) return islands;
  const { places } = topologyOf(d);
  const positions = new Float32Array(d.indices.length * 3);
  // The number of a place stands for it: whole numbers up to 2^24 are exact.
  places.forEach((place, i) => {
    positions[i * 3] = place & 0xffff;
    positions[i * 3 + 1] = place >>> 16;
  });
  islands = uvIslands(Uint32Array.from(places.keys()), positions, d.uv).ofTriangle;
  return islands;
}

function taken(d: NonNullable<typeof data>, r: Extract<FacesRequest, { type: 'take' }>): FaceSet {
  const topology = topologyOf(d);
  switch (r.how) {
    case 'face':
      return Uint8Array.from({ length: topology.faces }, (_, f) => Number(f === r.face));
    case 'piece':
      return connectedFaces(topology, [r.face]);
    case 'island':
      return labelledFaces([r.face], islandsOf(d));
    case 'slot':
      return labelledFaces([r.face], d.slots);
    case 'flat':
      return flatFaces(topology, [r.face], r.degrees);
    case 'loop': {
      const lengths = sideLengths(d);
      const sides = [0, 1, 2].map((k) => lengths[r.face * 3 + k]);
      // The side that halves the quad leads nowhere.
      const diagonal = sides.indexOf(Math.max(...sides));
      return loopFaces(topology, lengths, r.face, r.side === diagonal ? (diagonal + 1) % 3 : r.side);
    }
    case 'colour': {
      const picture = pictures.get(d.slots[r.face]);
      return picture ? facesOfColour(d.uv, d.slots, r.face, picture, r.range) : labelledFaces([r.face], d.slots);
    }
  }
}

function sideLengths({ positions: p, indices }: NonNullable<typeof data>): Float32Array {
  return Float32Array.from({ length: indices.length }, (_, i) => {
    const [a, b] = [indices[i] * 3, indices[i % 3 === 2 ? i - 2 : i + 1] * 3];
    return Math.sqrt((p[a] - p[b]) ** 2 + (p[a + 1] - p[b + 1]) ** 2 + (p[a + 2] - p[b + 2]) ** 2);
  });
}

/** Answers which faces a click takes; topology is made with the first question that needs it. */
self.onmessage = ({ data: request }: MessageEvent<FacesRequest>) => {
  if (request.type === 'load') {
    data = request;
    topology = null;
    islands = null;
    pictures.clear();
    return;
  }
  if (request.type === 'picture') {
    pictures.set(request.slot, request.picture);
    return;
  }
  if (!data) return;
  const begun = performance.now();
  const set =
    request.type === 'take'
      ? taken(data, request)
      : request.type === 'grow'
        ? grown(topologyOf(data), request.set)
        : shrunk(topologyOf(data), request.set);
  self.postMessage({ id: request.id, set, took: performance.now() - begun } satisfies FacesAnswer);
};
