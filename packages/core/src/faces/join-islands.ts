import type { FaceEditOf } from '../decisions/face-decisions.ts';
import { cosineAt, type Surface } from '../mesh/surface.ts';
import { edgesCross } from '../unwrap/flatten.ts';
import { type ChosenIsland, chosenIslands, writeIsland } from './chosen-islands.ts';
import { type Chosen, surfaceOfChosen, writableUv } from './face-table.ts';

export interface JoinFigures {
  before: number;
  after: number;
  /** Pairs that stayed apart, since they would overlap or do not fit to each other. */
  refused: number;
}

/** Reach of an edge over another that is taken for rounding, as a share of its length. */
const HAIR = 1e-4;
/** Greatest distance of two ends that are taken for one. */
const ALIKE = 1e-3;
/** Greatest distance of two ends that are to become one, as a share of the length of their edge. */
const FITS = 0.15;

/** Islands that became one: vertices of each, and their faces by three. */
interface Group {
  uv: number[];
  local: number[];
  /** Faces as triangles of the surface. */
  triangles: number[];
  area: number;
}

/** An edge that two islands share: its ends as corners (triangle · 3 + k), first in one island, then in the other. */
type Shared = [number, number, number, number];

/**
 * Brings islands together along edges that they share on the surface, longest border first: the smaller one is moved, turned and scaled onto
 * the other's edge. Pairs stay apart where they would overlap, or where their edges are not alike.
 */
export function joinIslands(chosen: readonly Chosen[], edit: FaceEditOf<'join'>): JoinFigures {
  const out: JoinFigures = { before: 0, after: 0, refused: 0 };
  for (const c of chosen) {
    const surface = surfaceOfChosen(c);
    const islands = chosenIslands(c, edit.set);
    out.before += islands.length;
    out.after += islands.length - joinedOf(c, surface, islands, edit, out);
  }
  return out;
}

function joinedOf(
  chosen: Chosen,
  surface: Surface,
  islands: readonly ChosenIsland[],
  edit: FaceEditOf<'join'>,
  figures: JoinFigures,
): number {
  const at = new Map<number, number>();
  chosen.faces.forEach((face, i) => {
    at.set(face, i);
  });
  const islandOf = new Int32Array(chosen.faces.length);
  const groups: (Group | null)[] = islands.map((island, i) => {
    const triangles = Array.from(island.faces, (face) => at.get(face) as number);
    for (const triangle of triangles) islandOf[triangle] = i;
    return { uv: [...island.uv], local: [...island.local], triangles, area: 0 };
  });
  for (const group of groups)
    if (group) group.area = group.triangles.reduce((sum, triangle) => sum + surface.areas[triangle], 0);
  const pairs = sharedEdges(surface, islandOf, Math.cos((edit.bend * Math.PI) / 180) - 1e-9);
  const lead = islands.map((_, i) => i);
  const leader = (i: number): number => {
    let r = i;
    while (lead[r] !== r) r = lead[r];
    return r;
  };
  let joins = 0;
  for (const { a, b, edges } of pairs) {
    const [x, y] = [leader(a), leader(b)];
    if (x === y) continue;
    const [ga, gb] = [groups[x] as Group, groups[y] as Group];
    const larger = ga.area >= gb.area;
    const turned = (list: readonly Shared[], asTheyAre: boolean) =>
      asTheyAre ? list : list.map(([p, q, r, s]): Shared => [r, s, p, q]);
    // Borders between other members of the two groups are sewn as well where they come to lie on each other.
    const others = pairs.flatMap((pair) => {
      const [u, v] = [leader(pair.a), leader(pair.b)];
      if (pair.edges === edges || !((u === x && v === y) || (u === y && v === x))) return [];
      return turned(pair.edges, (u === x) === larger);
    });
    const joined = joinPair(larger ? ga : gb, larger ? gb : ga, turned(edges, larger), others);
    if (!joined) {
      figures.refused++;
      continue;
    }
    const [to, from] = larger ? [x, y] : [y, x];
    lead[from] = to;
    groups[to] = joined;
    groups[from] = null;
    joins++;
  }
  if (joins === 0) return 0;
  const uv = writableUv(chosen.table, edit.set);
  for (const group of groups)
    if (group)
      writeIsland(
        uv,
        {
          faces: Uint32Array.from(group.triangles, (t) => chosen.faces[t]),
          local: Uint32Array.from(group.local),
          uv: Float64Array.from(group.uv),
        },
        group.uv,
      );
  return joins;
}

/** Pairs of islands with the edges between them, the longest border first. */
function sharedEdges(
  surface: Surface,
  islandOf: Int32Array,
  least: number,
): { a: number; b: number; edges: Shared[]; length: number }[] {
  const pairs = new Map<string, { a: number; b: number; edges: Shared[]; length: number }>();
  const { twin, corners, points } = surface;
  const end = (s: number) => s - (s % 3) + ((s + 1) % 3);
  for (let s = 0; s < twin.length; s++) {
    const other = twin[s];
    if (other < s) continue;
    const [a, b] = [islandOf[Math.floor(s / 3)], islandOf[Math.floor(other / 3)]];
    if (a === b || cosineAt(surface, s, other) < least) continue;
    const key = a < b ? `${a} ${b}` : `${b} ${a}`;
    const pair = pairs.get(key) ?? { a: Math.min(a, b), b: Math.max(a, b), edges: [], length: 0 };
    pairs.set(key, pair);
    const [p, q] = [corners[s] * 3, corners[end(s)] * 3];
    pair.length += Math.sqrt([0, 1, 2].reduce((sum, k) => sum + (points[p + k] - points[q + k]) ** 2, 0));
    // Beyond a side runs the other way.
    pair.edges.push(a < b ? [s, end(s), end(other), other] : [end(other), other, s, end(s)]);
  }
  return [...pairs.values()].sort((x, y) => y.length - x.length || x.a - y.a || x.b - y.b);
}

/**
 * The second group moved onto the first over edges that they share, and sewn to it; null where that does not go.
 * @param others edges that are sewn only where they come to lie on each other
 */
function joinPair(group: Group, b: Group, edges: readonly Shared[], others: readonly Shared[]): Group | null {
  const cornerAt = (group: Group) => {
    const at = new Map<number, number>();
    group.triangles.forEach((triangle, i) => {
      for (let k = 0; k < 3; k++) at.set(triangle * 3 + k, group.local[i * 3 + k]);
    });
    return at;
  };
  const [ca, cb] = [cornerAt(group), cornerAt(b)];
  /** Ends of an edge, each as a vertex of the first group and one of the second. */
  const endsOf = ([p, q, r, s]: Shared) =>
    [
      [ca.get(p) as number, cb.get(r) as number],
      [ca.get(q) as number, cb.get(s) as number],
    ] as const;
  const ends = edges.flatMap(endsOf);
  const move = similarity(
    ends.map(([, j]) => [b.uv[2 * j], b.uv[2 * j + 1]]),
    ends.map(([i]) => [group.uv[2 * i], group.uv[2 * i + 1]]),
  );
  if (!move) return null;
  const moved = new Array<number>(b.uv.length);
  for (let i = 0; i < moved.length; i += 2) [moved[i], moved[i + 1]] = move(b.uv[i], b.uv[i + 1]);
  const sewn = new Map<number, number>();
  /** Sews an edge whose ends are no further from each other than a share of its length. */
  const sew = (edge: Shared, share: number): boolean => {
    const two = endsOf(edge);
    const [[i], [k]] = two;
    const length = Math.sqrt(
      (group.uv[2 * i] - group.uv[2 * k]) ** 2 + (group.uv[2 * i + 1] - group.uv[2 * k + 1]) ** 2,
    );
    const fits = two.every(([to, from]) => {
      const gap = Math.sqrt(
        (group.uv[2 * to] - moved[2 * from]) ** 2 + (group.uv[2 * to + 1] - moved[2 * from + 1]) ** 2,
      );
      return gap <= share * length && (sewn.get(from) ?? to) === to;
    });
    if (fits) for (const [to, from] of two) sewn.set(from, to);
    return fits;
  };
  if (!edges.every((edge) => sew(edge, FITS))) return null;
  for (const other of others) sew(other, ALIKE);
  const uv = [...group.uv];
  const number = new Map<number, number>();
  const vertex = (j: number) => {
    const to = sewn.get(j) ?? number.get(j);
    if (to !== undefined) return to;
    const n = uv.length / 2;
    uv.push(moved[2 * j], moved[2 * j + 1]);
    number.set(j, n);
    return n;
  };
  const local = [...group.local, ...b.local.map(vertex)];
  const joined = { uv, local, triangles: [...group.triangles, ...b.triangles], area: group.area + b.area };
  return sound(joined, group.triangles.length) ? joined : null;
}

/** Scale, turn and move that bring points nearest to others, or null where all are one. */
function similarity(from: number[][], to: number[][]): ((u: number, v: number) => [number, number]) | null {
  const n = from.length;
  const middle = (list: number[][]) => [0, 1].map((k) => list.reduce((sum, p) => sum + p[k], 0) / n);
  const [[fu, fv], [tu, tv]] = [middle(from), middle(to)];
  let [c, s, size] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    const [x, y, a, b] = [from[i][0] - fu, from[i][1] - fv, to[i][0] - tu, to[i][1] - tv];
    c += a * x + b * y;
    s += b * x - a * y;
    size += x * x + y * y;
  }
  if (!(size > 0) || !(c * c + s * s > 0)) return null;
  return (u, v) => {
    const [x, y] = [u - fu, v - fv];
    return [tu + (x * c - y * s) / size, tv + (x * s + y * c) / size];
  };
}

/** Nothing of the joined group lies over anything else of it: all faces turned one way, borders free of crossings, no part inside the other. */
function sound(group: Group, first: number): boolean {
  const corner = (i: number, k: number) => group.local[i * 3 + k] * 2;
  const signs = group.triangles.map((_, i) => {
    const [a, b, c] = [corner(i, 0), corner(i, 1), corner(i, 2)];
    return Math.sign(
      (group.uv[b] - group.uv[a]) * (group.uv[c + 1] - group.uv[a + 1]) -
        (group.uv[c] - group.uv[a]) * (group.uv[b + 1] - group.uv[a + 1]),
    );
  });
  if (signs.some((sign) => sign > 0) && signs.some((sign) => sign < 0)) return false;
  const sides = new Map<string, [number, number, number]>();
  group.triangles.forEach((_, i) => {
    for (let k = 0; k < 3; k++) {
      const [p, q] = [group.local[i * 3 + k], group.local[i * 3 + ((k + 1) % 3)]];
      const key = p < q ? `${p} ${q}` : `${q} ${p}`;
      const known = sides.get(key);
      if (known) known[2]++;
      else sides.set(key, [p, q, 1]);
    }
  });
  const borders: number[] = [];
  for (const [p, q, n] of sides.values()) if (n === 1) borders.push(p, q);
  if (edgesCross(group.uv, borders, HAIR)) return false;
  const middle = (i: number) =>
    [0, 1].map((k) => (group.uv[corner(i, 0) + k] + group.uv[corner(i, 1) + k] + group.uv[corner(i, 2) + k]) / 3);
  const covers = (point: number[], from: number, to: number) => {
    for (let i = from; i < to; i++)
      if (inside(group.uv, [corner(i, 0), corner(i, 1), corner(i, 2)], point)) return true;
    return false;
  };
  return !covers(middle(first), 0, first) && !covers(middle(0), first, group.triangles.length);
}

function inside(uv: readonly number[], at: readonly number[], [x, y]: number[]): boolean {
  const s = [0, 1, 2].map((k) => {
    const [p, q] = [at[k], at[(k + 1) % 3]];
    return Math.sign((uv[q] - uv[p]) * (y - uv[p + 1]) - (uv[q + 1] - uv[p + 1]) * (x - uv[p]));
  });
  return s.every((v) => v > 0) || s.every((v) => v < 0);
}
