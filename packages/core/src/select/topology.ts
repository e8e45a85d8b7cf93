import { twinHalfEdges } from '../math/half-edges.ts';
import { byteColumn, weldVertices } from '../mesh/weld.ts';

/** Which faces touch which: made once for a part, then asked with every click. */
export interface FaceTopology {
  faces: number;
  /** Face beyond each side (face · 3 + k); −1 at borders and where more than two meet. */
  neighbour: Int32Array;
  /** Place of each corner: vertices of one place have one number. */
  places: Uint32Array;
  placeCount: number;
  /** Faces around each place: those of place p are `around[start[p]] … around[start[p + 1] − 1]`. */
  start: Uint32Array;
  around: Uint32Array;
  /** Unit normals; 0 for faces without area. */
  normals: Float32Array;
}

/**
 * @param positions (x, y, z) of each vertex @param indices three a face
 * @param bodies number of each vertex's mesh: faces of different ones do not touch
 */
export function faceTopology(positions: Float32Array, indices: Uint32Array, bodies?: Uint32Array): FaceTopology {
  const count = positions.length / 3;
  const columns = [byteColumn(positions, 3), ...(bodies ? [byteColumn(bodies, 1)] : [])];
  const { first } = weldVertices(columns, count);
  const faces = indices.length / 3;
  const number = new Int32Array(count).fill(-1);
  const places = new Uint32Array(indices.length);
  let placeCount = 0;
  for (let i = 0; i < indices.length; i++) {
    const v = first[indices[i]];
    if (number[v] < 0) number[v] = placeCount++;
    places[i] = number[v];
  }
  const start = new Uint32Array(placeCount + 1);
  for (const place of places) start[place + 1]++;
  for (let p = 0; p < placeCount; p++) start[p + 1] += start[p];
  const at = start.slice(0, placeCount);
  const around = new Uint32Array(places.length);
  for (let i = 0; i < places.length; i++) around[at[places[i]]++] = Math.floor(i / 3);
  return {
    faces,
    neighbour: twinHalfEdges(places).map((edge) => (edge < 0 ? -1 : Math.floor(edge / 3))),
    places,
    placeCount,
    start,
    around,
    normals: normalsOf(positions, indices),
  };
}

/** The same without some faces: nothing hangs together through them, so that what they enclose is a piece of its own. */
export function withoutFaces(topology: FaceTopology, hidden: Uint8Array): FaceTopology {
  const neighbour = topology.neighbour.map((o, s) => (o < 0 || hidden[o] || hidden[Math.floor(s / 3)] ? -1 : o));
  return { ...topology, neighbour };
}

function normalsOf(p: Float32Array, indices: Uint32Array): Float32Array {
  const out = new Float32Array(indices.length);
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3];
    const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    const l = Math.sqrt(x * x + y * y + z * z);
    if (l > 0) {
      out[i] = x / l;
      out[i + 1] = y / l;
      out[i + 2] = z / l;
    }
  }
  return out;
}
