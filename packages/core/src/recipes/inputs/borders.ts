import { TILE } from '../../bake/tile-cover.ts';
import { binTriangles } from '../../bake/transfer.ts';
import { TileSamples, tileFrame } from '../../rays/cast/tile-samples.ts';
import type { RecipeSurface } from '../surface.ts';

/** Lines in object space, as triangles without area, since that is what hierarchies are built of: m. */
export interface Segments {
  positions: Float32Array;
  indices: Uint32Array;
}

type Vec = readonly [number, number, number];

/** An edge of a triangle that bounds its island. */
interface BorderEdge {
  triangle: number;
  /** Corner at which it begins, 0 … 2. */
  corner: number;
}

/** All lines at which an island ends. */
export function uvBorders(surface: RecipeSurface): Segments {
  const edges = borderEdges(surface);
  return segmentsOf(edges.map((edge) => [cornerOf(surface, edge, 0), cornerOf(surface, edge, 1)]));
}

/**
 * All lines at which IDs change: between neighbouring texels of an island, and along borders of islands where what lies beyond has another ID.
 * @param idOf a texel's ID, or whether it belongs to some
 */
export function idBorders(surface: RecipeSurface, idOf: (texel: number) => number): Segments {
  return segmentsOf([...withinIslands(surface, idOf), ...acrossIslands(surface, idOf)]);
}

function segmentsOf(lines: readonly (readonly [Vec, Vec])[]): Segments {
  const positions = new Float32Array(new SharedArrayBuffer(Math.max(1, lines.length) * 24));
  const indices = new Uint32Array(new SharedArrayBuffer(lines.length * 12));
  lines.forEach(([a, b], i) => {
    positions.set(a, i * 6);
    positions.set(b, i * 6 + 3);
    indices.set([i * 2, i * 2 + 1, i * 2 + 1], i * 3);
  });
  return { positions, indices };
}

const cornerOf = ({ positions: p }: RecipeSurface, { triangle, corner }: BorderEdge, k: number): Vec => {
  const o = triangle * 9 + ((corner + k) % 3) * 3;
  return [p[o], p[o + 1], p[o + 2]];
};

const placeOf = ({ place }: RecipeSurface, { triangle, corner }: BorderEdge, k: number): readonly [number, number] => {
  const o = triangle * 6 + ((corner + k) % 3) * 2;
  return [place[o], place[o + 1]];
};

/** Steps of the sheet within which two corners are the same place. */
const PLACE_STEPS = 256;

/** Edges that no other triangle of the same island shares on the sheet. */
function borderEdges(surface: RecipeSurface): BorderEdge[] {
  const { count, island } = surface;
  const seen = new Map<string, BorderEdge | null>();
  for (let triangle = 0; triangle < count; triangle++)
    for (let corner = 0; corner < 3; corner++) {
      const edge = { triangle, corner };
      const ends = [0, 1].map((k) =>
        placeOf(surface, edge, k)
          .map((v) => Math.round(v * PLACE_STEPS))
          .join(' '),
      );
      const key = `${island[triangle]} ${ends.sort().join(' ')}`;
      seen.set(key, seen.has(key) ? null : edge);
    }
  return [...seen.values()].filter((edge) => edge !== null);
}

/** Which triangle each texel shows and where it lies; −1 where there is none. */
function texelTable(surface: RecipeSurface): { triangle: Int32Array; position: Float32Array } {
  const { width, height } = surface;
  const triangle = new Int32Array(width * height).fill(-1);
  const position = new Float32Array(width * height * 3);
  eachTexel(surface, (texel, t, at) => {
    triangle[texel] = t;
    position.set(at, texel * 3);
  });
  return { triangle, position };
}

/** Visits the middle of every texel that an island covers. */
export function eachTexel(
  surface: RecipeSurface,
  visit: (texel: number, triangle: number, at: readonly number[]) => void,
  tiles?: { numbers: Iterable<number>; lists: ReadonlyMap<number, Uint32Array> },
): void {
  const { width, height, positions: p } = surface;
  const lists = tiles?.lists ?? binTriangles(surface, width, height);
  const found = new TileSamples();
  const at = [0, 0, 0];
  for (const tile of tiles?.numbers ?? lists.keys()) {
    const frame = tileFrame(tile, width, height);
    found.find(surface.place, lists.get(tile) as Uint32Array, frame, 1);
    for (let s = 0; s < found.count; s++) {
      const local = found.texel[s];
      const o = found.triangle[s] * 9;
      const [b, c] = [found.b1[s], found.b2[s]];
      for (let k = 0; k < 3; k++) at[k] = (1 - b - c) * p[o + k] + b * p[o + 3 + k] + c * p[o + 6 + k];
      const x = frame.x + (local % TILE);
      visit((frame.y + Math.floor(local / TILE)) * width + x, found.triangle[s], at);
    }
  }
}

/** The sides of texels between two of one island whose IDs differ. */
function withinIslands(surface: RecipeSurface, idOf: (texel: number) => number): [Vec, Vec][] {
  const { width, height, island } = surface;
  const { triangle, position } = texelTable(surface);
  const at = (i: number): Vec => [position[i * 3], position[i * 3 + 1], position[i * 3 + 2]];
  const out: [Vec, Vec][] = [];
  const differ = (i: number, j: number) =>
    triangle[i] >= 0 && triangle[j] >= 0 && island[triangle[i]] === island[triangle[j]] && idOf(i) !== idOf(j);
  const shown = (i: number, j: number) => triangle[j] >= 0 && island[triangle[j]] === island[triangle[i]];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (x + 1 < width && differ(i, i + 1)) {
        const along = y + 1 < height && shown(i, i + width) ? width : y > 0 && shown(i, i - width) ? -width : 0;
        out.push(sideBetween(at(i), at(i + 1), along === 0 ? at(i) : at(i + along)));
      }
      if (y + 1 < height && differ(i, i + width)) {
        const along = x + 1 < width && shown(i, i + 1) ? 1 : x > 0 && shown(i, i - 1) ? -1 : 0;
        out.push(sideBetween(at(i), at(i + width), along === 0 ? at(i) : at(i + along)));
      }
    }
  return out;
}

/** A line as long as a texel, through the middle between two of them. @param beside the neighbour of the first along the line */
function sideBetween(a: Vec, b: Vec, beside: Vec): [Vec, Vec] {
  const half = a.map((v, k) => (beside[k] - v) / 2);
  const middle = a.map((v, k) => (v + b[k]) / 2);
  return [middle.map((v, k) => v - half[k]) as unknown as Vec, middle.map((v, k) => v + half[k]) as unknown as Vec];
}

/** How far inside of a border's edge an ID is read, px. */
const INSIDE = 0.75;

/** Stretches of UV borders on whose two sides the IDs differ. */
function acrossIslands(surface: RecipeSurface, idOf: (texel: number) => number): [Vec, Vec][] {
  const pairs = new Map<string, BorderEdge[]>();
  const scale = 1e6;
  for (const edge of borderEdges(surface)) {
    const ends = [0, 1].map((k) =>
      cornerOf(surface, edge, k)
        .map((v) => Math.round(v * scale))
        .join(' '),
    );
    const key = ends.sort().join(' ');
    const list = pairs.get(key);
    if (list) list.push(edge);
    else pairs.set(key, [edge]);
  }
  const out: [Vec, Vec][] = [];
  for (const edges of pairs.values())
    for (const other of edges.slice(1)) out.push(...differingStretches(surface, edges[0], other, idOf));
  return out;
}

function differingStretches(
  surface: RecipeSurface,
  edge: BorderEdge,
  other: BorderEdge,
  idOf: (texel: number) => number,
): [Vec, Vec][] {
  const [a, b] = [cornerOf(surface, edge, 0), cornerOf(surface, edge, 1)];
  const start = cornerOf(surface, other, 0);
  const far = (v: Vec) => Math.hypot(v[0] - start[0], v[1] - start[1], v[2] - start[2]);
  const turned = far(b) < far(a);
  const [p, q] = [placeOf(surface, edge, 0), placeOf(surface, edge, 1)];
  const steps = Math.max(1, Math.ceil(Math.hypot(q[0] - p[0], q[1] - p[1])));
  const point = (s: number) => a.map((v, k) => v + (b[k] - v) * s) as unknown as Vec;
  const out: [Vec, Vec][] = [];
  for (let k = 0; k < steps; k++) {
    const s = (k + 0.5) / steps;
    const own = idOf(texelInside(surface, edge, s));
    if (own !== idOf(texelInside(surface, other, turned ? 1 - s : s)))
      out.push([point(k / steps), point((k + 1) / steps)]);
  }
  return out;
}

/** The texel a little inside of an edge. */
function texelInside(surface: RecipeSurface, edge: BorderEdge, s: number): number {
  const { width, height } = surface;
  const [p, q, r] = [0, 1, 2].map((k) => placeOf(surface, edge, k));
  const x = p[0] + (q[0] - p[0]) * s;
  const y = p[1] + (q[1] - p[1]) * s;
  const [mx, my] = [(p[0] + q[0] + r[0]) / 3 - x, (p[1] + q[1] + r[1]) / 3 - y];
  const l = Math.hypot(mx, my) || 1;
  const k = Math.min(INSIDE, l) / l;
  const clamp = (v: number, n: number) => Math.max(0, Math.min(n - 1, Math.floor(v)));
  return clamp(y + my * k, height) * width + clamp(x + mx * k, width);
}
