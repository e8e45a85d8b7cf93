import { xorshift32 } from '../math/random.ts';
import type { FaceTopology } from './topology.ts';

/** A set of faces: 1 for each that is selected. */
export type FaceSet = Uint8Array;

export const noFaces = (topology: FaceTopology): FaceSet => new Uint8Array(topology.faces);

/** Faces that can be reached from some over sides for which `open` holds. */
function spread(topology: FaceTopology, from: Iterable<number>, open: (from: number, to: number) => boolean): FaceSet {
  const out = noFaces(topology);
  const queue = new Uint32Array(topology.faces);
  let end = 0;
  for (const f of from)
    if (!out[f]) {
      out[f] = 1;
      queue[end++] = f;
    }
  for (let at = 0; at < end; at++)
    for (let k = 0; k < 3; k++) {
      const f = queue[at];
      const o = topology.neighbour[f * 3 + k];
      if (o < 0 || out[o] || !open(f, o)) continue;
      out[o] = 1;
      queue[end++] = o;
    }
  return out;
}

/** The piece that hangs together with some faces. */
export const connectedFaces = (topology: FaceTopology, from: Iterable<number>): FaceSet =>
  spread(topology, from, () => true);

/** Faces of the same label (an island, a slot, a face group) as the ones given, wherever they are. */
export function labelledFaces(from: Iterable<number>, labels: ArrayLike<number>): FaceSet {
  const wanted = new Set<number>();
  for (const f of from) wanted.add(labels[f]);
  return Uint8Array.from({ length: labels.length }, (_, f) => (wanted.has(labels[f]) ? 1 : 0));
}

/** The flat neighbourhood: over sides at which the surface bends by at most so many degrees. */
export function flatFaces(topology: FaceTopology, from: Iterable<number>, degrees: number): FaceSet {
  const least = Math.cos((degrees * Math.PI) / 180) - 1e-6;
  const n = topology.normals;
  return spread(
    topology,
    from,
    (a, b) => n[a * 3] * n[b * 3] + n[a * 3 + 1] * n[b * 3 + 1] + n[a * 3 + 2] * n[b * 3 + 2] >= least,
  );
}

/** One ring more: every face that has a place in common with the set. */
export function grown(topology: FaceTopology, set: FaceSet): FaceSet {
  const out = set.slice();
  const touched = placesOf(topology, set, 1);
  for (let i = 0; i < topology.places.length; i++) if (touched[topology.places[i]]) out[Math.floor(i / 3)] = 1;
  return out;
}

/** One ring less: without faces that have a place in common with what is not selected. */
export function shrunk(topology: FaceTopology, set: FaceSet): FaceSet {
  const out = set.slice();
  const touched = placesOf(topology, set, 0);
  for (let i = 0; i < topology.places.length; i++) if (touched[topology.places[i]]) out[Math.floor(i / 3)] = 0;
  return out;
}

function placesOf(topology: FaceTopology, set: FaceSet, value: 0 | 1): Uint8Array {
  const out = new Uint8Array(topology.placeCount);
  for (let i = 0; i < topology.places.length; i++) if (set[Math.floor(i / 3)] === value) out[topology.places[i]] = 1;
  return out;
}

export const inverted = (set: FaceSet): FaceSet => set.map((v) => 1 - v);

/**
 * The loop of quads that runs through a face across one of its sides: two triangles that lie nearly in one plane and share their longest side are a quad.
 * @param lengths of each side (face · 3 + k), in any unit
 * @param side of the face across which the loop leaves; not the one that is shared within its quad
 */
export function loopFaces(topology: FaceTopology, lengths: ArrayLike<number>, face: number, side: number): FaceSet {
  const out = noFaces(topology);
  const longest = (f: number) =>
    [0, 1, 2].reduce((best, k) => (lengths[f * 3 + k] > lengths[f * 3 + best] ? k : best), 0);
  const partner = (f: number): number => {
    const o = topology.neighbour[f * 3 + longest(f)];
    return o >= 0 && topology.neighbour[o * 3 + longest(o)] === f ? o : -1;
  };
  const ends = (f: number, k: number): [number, number] => [
    topology.places[f * 3 + k],
    topology.places[f * 3 + ((k + 1) % 3)],
  ];
  /** Walks from a face over a side until the border, a face that is no quad, or the beginning. */
  const walk = (start: number, across: number) => {
    let [f, k] = [start, across];
    for (let n = 0; n < topology.faces; n++) {
      const next = topology.neighbour[f * 3 + k];
      if (next < 0 || out[next]) return;
      const other = partner(next);
      if (other < 0) return;
      out[next] = 1;
      out[other] = 1;
      // Opposite of the side by which one comes in: the side of the quad without a place in common with it.
      const [a, b] = ends(f, k);
      let found: [number, number] | null = null;
      for (const q of [next, other])
        for (let m = 0; m < 3; m++) {
          if (m === longest(q)) continue;
          const [c, d] = ends(q, m);
          if (c !== a && c !== b && d !== a && d !== b) found = [q, m];
        }
      if (!found) return;
      [f, k] = found;
    }
  };
  const pair = partner(face);
  out[face] = 1;
  if (pair < 0 || longest(face) === side) return out;
  out[pair] = 1;
  walk(face, side);
  const [a, b] = ends(face, side);
  for (const q of [face, pair])
    for (let m = 0; m < 3; m++) {
      if (m === longest(q)) continue;
      const [c, d] = ends(q, m);
      if (c !== a && c !== b && d !== a && d !== b) walk(q, m);
    }
  return out;
}

/** A share of a set, dealt out by a seed: as many as the share says, rounded. */
export function randomShare(set: FaceSet, share: number, seed: number): FaceSet {
  const list: number[] = [];
  for (let f = 0; f < set.length; f++) if (set[f]) list.push(f);
  const count = Math.round(Math.min(1, Math.max(0, share)) * list.length);
  const next = xorshift32(seed, 0x2545f491);
  const out = new Uint8Array(set.length);
  for (let i = 0; i < count; i++) {
    const j = i + Math.floor(next() * (list.length - i));
    [list[i], list[j]] = [list[j], list[i]];
    out[list[i]] = 1;
  }
  return out;
}
