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
  const normals = topology.normals;
  return spread(
    topology,
    from,
    (a, b) =>
      normals[a * 3] * normals[b * 3] +
        normals[a * 3 + 1] * normals[b * 3 + 1] +
        normals[a * 3 + 2] * normals[b * 3 + 2] >=
      least,
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
 * The loop of quads that runs through a face across one of its sides.
 * @param partner other half of each face's quad, see `quadPartners`
 * @param side of the face across which the loop leaves; the one that is shared within its quad leads nowhere
 */
export function loopFaces(topology: FaceTopology, partner: Int32Array, face: number, side: number): FaceSet {
  const out = noFaces(topology);
  const halves = (f: number, k: number) => topology.neighbour[f * 3 + k] === partner[f];
  const ends = (f: number, k: number): [number, number] => [
    topology.places[f * 3 + k],
    topology.places[f * 3 + ((k + 1) % 3)],
  ];
  /** The side of a quad that has no place in common with one of its others. */
  const opposite = (quad: readonly [number, number], [a, b]: [number, number]): [number, number] | null => {
    for (const q of quad)
      for (let m = 0; m < 3; m++) {
        if (halves(q, m)) continue;
        const [c, d] = ends(q, m);
        if (c !== a && c !== b && d !== a && d !== b) return [q, m];
      }
    return null;
  };
  /** Walks from a face over a side until the border, a face that is no quad, or the beginning. */
  const walk = (start: number, across: number) => {
    let at: [number, number] | null = [start, across];
    while (at) {
      const next: number = topology.neighbour[at[0] * 3 + at[1]];
      if (next < 0 || out[next] || partner[next] < 0) return;
      out[next] = 1;
      out[partner[next]] = 1;
      at = opposite([next, partner[next]], ends(...at));
    }
  };
  out[face] = 1;
  if (partner[face] < 0 || halves(face, side)) return out;
  out[partner[face]] = 1;
  walk(face, side);
  const back = opposite([face, partner[face]], ends(face, side));
  if (back) walk(...back);
  return out;
}
