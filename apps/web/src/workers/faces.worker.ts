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
import { facesInOutline, type OutlineChoice, type ProjectedPart } from '@wembrel/core/select/outline';
import { quadPartners, wholeQuads } from '@wembrel/core/select/quads';
import { type FaceTopology, faceTopology, withoutFaces } from '@wembrel/core/select/topology';

/** What is taken with a click. */
export type Take = 'face' | 'piece' | 'part' | 'island' | 'slot' | 'flat' | 'loop' | 'colour';

export type FacesRequest =
  | {
      type: 'load';
      positions: Float32Array;
      bodies: Uint32Array;
      indices: Uint32Array;
      uv: Float32Array;
      slots: Int32Array;
      /** First face of each part. */
      starts: number[];
    }
  | { type: 'picture'; slot: number; picture: Pixels }
  /** Faces that are not shown: nothing takes them, and nothing hangs together through them. */
  | { type: 'hide'; hidden: FaceSet | null }
  | { type: 'take'; id: number; how: Take; face: number; side: number; degrees: number; range: number; quads: boolean }
  | { type: 'outline'; id: number; parts: ProjectedPart[]; choice: OutlineChoice; quads: boolean }
  | { type: 'grow' | 'shrink'; id: number; set: FaceSet; quads: boolean }
  | { type: 'quads'; id: number };

export type FacesAnswer = {
  id: number;
  set: FaceSet;
  took: number;
  /** Answer to `quads`, see `quadPartners`. */
  partner?: Int32Array;
};

type Loaded = Extract<FacesRequest, { type: 'load' }>;

/** What is known of the faces that are loaded; each is found with the first question that needs it. */
class Known {
  private whole: FaceTopology | null = null;
  private shown: FaceTopology | null = null;
  private partners: Int32Array | null = null;
  private islandOf: Uint32Array | null = null;
  private partOf: Uint32Array | null = null;
  private out: FaceSet | null = null;
  readonly pictures = new Map<number, Pixels>();

  constructor(readonly data: Loaded) {}

  get hidden(): FaceSet | null {
    return this.out;
  }

  hide(hidden: FaceSet | null): void {
    this.out = hidden;
    this.shown = null;
    this.partners = null;
  }

  private get everything(): FaceTopology {
    this.whole ??= faceTopology(this.data.positions, this.data.indices, this.data.bodies);
    return this.whole;
  }

  get topology(): FaceTopology {
    this.shown ??= this.out ? withoutFaces(this.everything, this.out) : this.everything;
    return this.shown;
  }

  get partner(): Int32Array {
    this.partners ??= quadPartners(this.topology, this.data.positions, this.data.indices);
    return this.partners;
  }

  /** Island of each face: corners that agree in place and UV are one. */
  get islands(): Uint32Array {
    if (this.islandOf) return this.islandOf;
    const { places } = this.everything;
    const positions = new Float32Array(this.data.indices.length * 3);
    // The number of a place stands for it: whole numbers up to 2^24 are exact.
    places.forEach((place, i) => {
      positions[i * 3] = place & 0xffff;
      positions[i * 3 + 1] = place >>> 16;
    });
    this.islandOf = uvIslands(Uint32Array.from(places.keys()), positions, this.data.uv).ofTriangle;
    return this.islandOf;
  }

  get parts(): Uint32Array {
    if (this.partOf) return this.partOf;
    const { starts, slots } = this.data;
    const out = new Uint32Array(slots.length);
    starts.forEach((start, part) => {
      out.fill(part, start);
    });
    this.partOf = out;
    return out;
  }

  /** Without what is hidden, and with whole quads where that is asked for. */
  only(set: FaceSet, quads: boolean): FaceSet {
    const { hidden } = this;
    const whole = quads ? wholeQuads(set, this.partner) : set;
    return hidden ? whole.map((v, f) => v & ~hidden[f] & 1) : whole;
  }
}

let known: Known | null = null;

function taken(known: Known, r: Extract<FacesRequest, { type: 'take' }>): FaceSet {
  const { topology, data } = known;
  switch (r.how) {
    case 'face':
      return Uint8Array.from({ length: topology.faces }, (_, f) => Number(f === r.face));
    case 'piece':
      return connectedFaces(topology, [r.face]);
    case 'part':
      return labelledFaces([r.face], known.parts);
    case 'island':
      return labelledFaces([r.face], known.islands);
    case 'slot':
      return labelledFaces([r.face], data.slots);
    case 'flat':
      return flatFaces(topology, [r.face], r.degrees);
    case 'loop': {
      const diagonal = [0, 1, 2].find((k) => topology.neighbour[r.face * 3 + k] === known.partner[r.face]);
      // The side that halves the quad leads nowhere.
      return loopFaces(topology, known.partner, r.face, r.side === diagonal ? (r.side + 1) % 3 : r.side);
    }
    case 'colour': {
      const picture = known.pictures.get(data.slots[r.face]);
      return picture
        ? facesOfColour(data.uv, data.slots, r.face, picture, r.range)
        : labelledFaces([r.face], data.slots);
    }
  }
}

/** Faces that are left when a ring goes; what is hidden is no border. */
function less({ topology, hidden }: Known, set: FaceSet): FaceSet {
  return shrunk(topology, hidden ? set.map((v, f) => v | hidden[f]) : set);
}

function answered(known: Known, request: Extract<FacesRequest, { id: number }>): FaceSet {
  switch (request.type) {
    case 'take':
      return known.only(taken(known, request), request.quads);
    case 'outline':
      return known.only(facesInOutline(request.parts, known.topology.faces, request.choice), request.quads);
    case 'grow':
      return known.only(grown(known.topology, request.set), request.quads);
    case 'shrink':
      return known.only(less(known, request.set), request.quads);
    case 'quads':
      return new Uint8Array(0);
  }
}

/** Answers which faces a click, a box or a line takes. */
self.onmessage = ({ data: request }: MessageEvent<FacesRequest>) => {
  if (request.type === 'load') known = new Known(request);
  else if (request.type === 'picture') known?.pictures.set(request.slot, request.picture);
  else if (request.type === 'hide') known?.hide(request.hidden);
  else if (known) {
    const begun = performance.now();
    const set = answered(known, request);
    const partner = request.type === 'quads' ? known.partner.slice() : undefined;
    self.postMessage({ id: request.id, set, partner, took: performance.now() - begun } satisfies FacesAnswer);
  }
};
