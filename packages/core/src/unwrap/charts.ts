import TinyQueue from 'tinyqueue';
import { DisjointSet } from '../math/disjoint-set.ts';
import type { Surface } from '../mesh/surface.ts';
import {
  bordersCross,
  type Flat,
  flatOf,
  l2Of,
  meanNormal,
  projected,
  relaxFlat,
  type Stretch,
  stretchOf,
  toArea,
} from './flatten.ts';
import { packsWell } from './packable.ts';

export interface ChartOptions {
  /** Greatest L2 stretch of a chart. */
  stretch: number;
  /** Greatest ratio of densities inside a chart, 95 % to 5 %. */
  spread: number;
  /** Sides at which the surface bends by more degrees are always cut. */
  cutAngle: number;
  /** Sides (triangle · 3 + k) that are cut, whatever they are. */
  cuts?: ReadonlySet<number>;
  /** Surface of all that shares a 0–1 with it, m²: charts that would hold up its scale are not made. Without it, charts may be of any shape. */
  whole?: number;
  cancelled?: () => boolean;
  progress?: (share: number) => void;
}

export interface Chart {
  flat: Flat;
  stretch: Stretch;
}

/** Steps of a solve while charts are tried: the rounds go on from there anyway. */
const STEPS = 30;

/** Mean squared deviation of normals (0 flat, 2 a closed surface) up to which faces are gathered before anything is flattened. */
const GATHERED = 0.42;

/**
 * Cuts a surface into few charts and flattens them: faces are gathered by how alike their normals are (a dual graph contracted edge by edge,
 * after Garland, Willmott and Heckbert 2001, with the length of the border counted in), each group is flattened, groups that stretch too much
 * are divided, and neighbours are joined again, longest common border first, while the joined chart still lies flat within the limits.
 * Nothing flipped, nothing overlapping inside a chart.
 */
export function chartsOf(surface: Surface, options: ChartOptions): Chart[] {
  const cut = cutSides(surface, options);
  const groups = gather(surface, cut);
  options.progress?.(0.2);
  const charts: Chart[] = [];
  const queue = groups;
  for (let g = queue.pop(); g; g = queue.pop()) {
    if (options.cancelled?.()) return charts;
    const chart = flattened(surface, g, options);
    if (chart) charts.push(chart);
    else queue.push(...divided(surface, g, cut));
  }
  options.progress?.(0.5);
  const joined = joinCharts(surface, charts, cut, options);
  return joined.map((chart) => {
    const flat = toArea(surface, relaxFlat(surface, chart.flat, 6, 200));
    const stretch = stretchOf(surface, flat);
    const better = stretch.flipped === 0 && stretch.l2 <= chart.stretch.l2 && !bordersCross(surface, flat);
    return better ? { flat, stretch } : chart;
  });
}

function cutSides(surface: Surface, options: ChartOptions): Uint8Array {
  const { twin, normals } = surface;
  const limit = Math.cos((Math.min(180, options.cutAngle) * Math.PI) / 180);
  const out = new Uint8Array(twin.length);
  for (let s = 0; s < twin.length; s++) {
    const t = twin[s];
    if (t < 0) {
      out[s] = 1;
      continue;
    }
    const [a, b] = [Math.floor(s / 3) * 3, Math.floor(t / 3) * 3];
    const bend = normals[a] * normals[b] + normals[a + 1] * normals[b + 1] + normals[a + 2] * normals[b + 2];
    if ((options.cutAngle < 180 && bend < limit) || options.cuts?.has(s) || options.cuts?.has(t)) out[s] = 1;
  }
  return out;
}

const lengthOfSide = (surface: Surface, s: number): number => {
  const { points, corners } = surface;
  const first = s - (s % 3);
  const [a, b] = [corners[s] * 3, corners[first + ((s - first + 1) % 3)] * 3];
  return Math.sqrt(
    (points[a] - points[b]) ** 2 + (points[a + 1] - points[b + 1]) ** 2 + (points[a + 2] - points[b + 2]) ** 2,
  );
};

/** A pair that may be joined. */
interface Offer {
  cost: number;
  /** Offers of one cost are taken in the order in which they were made. */
  item: number;
}

/** Offers, the cheapest first. */
const offerQueue = () => new TinyQueue<Offer>([], (offer, q) => offer.cost - q.cost || offer.item - q.item);

/** Faces in groups of alike normals; each group hangs together. */
function gather(surface: Surface, cut: Uint8Array): Uint32Array[] {
  const count = surface.areas.length;
  const groups = new DisjointSet(count);
  // Area and area-weighted normals of each group, and the length of its border.
  const area = surface.areas.slice();
  const sum = surface.normals.slice();
  for (let t = 0; t < count; t++) for (let k = 0; k < 3; k++) sum[t * 3 + k] *= area[t];
  const border = new Float64Array(count);
  const around: Map<number, number>[] = Array.from({ length: count }, () => new Map());
  for (let s = 0; s < cut.length; s++) {
    const l = lengthOfSide(surface, s);
    const t = Math.floor(s / 3);
    border[t] += l;
    if (cut[s]) continue;
    const o = Math.floor(surface.twin[s] / 3);
    if (o !== t) around[t].set(o, (around[t].get(o) ?? 0) + l);
  }
  const deviation = (a: number, b: number) => {
    const w = area[a] + area[b];
    if (!(w > 0)) return 0;
    const [x, y, z] = [0, 1, 2].map((k) => sum[a * 3 + k] + sum[b * 3 + k]);
    return 2 - (2 * Math.sqrt(x * x + y * y + z * z)) / w;
  };
  const queue = offerQueue();
  const joins: { a: number; b: number; versionA: number; versionB: number }[] = [];
  const version = new Int32Array(count);
  const offer = (a: number, b: number) => {
    const d = deviation(a, b);
    if (d > GATHERED) return;
    const w = area[a] + area[b];
    const round = border[a] + border[b] - 2 * (around[a].get(b) ?? 0);
    // A disc has 4π; ragged and long groups cost more.
    const ragged = w > 0 ? (round * round) / (4 * Math.PI * w) : 1;
    joins.push({ a, b, versionA: version[a], versionB: version[b] });
    queue.push({ cost: d + 0.004 * ragged, item: joins.length - 1 });
  };
  for (let t = 0; t < count; t++) for (const key of around[t].keys()) if (t < key) offer(t, key);
  for (let next = queue.pop(); next; next = queue.pop()) {
    const j = joins[next.item];
    if (
      version[j.a] !== j.versionA ||
      version[j.b] !== j.versionB ||
      groups.find(j.a) !== j.a ||
      groups.find(j.b) !== j.b
    )
      continue;
    const { a, b } = j;
    const common = around[a].get(b) ?? 0;
    // The lower one stays: offers name it first.
    groups.join(a, b);
    area[a] += area[b];
    for (let k = 0; k < 3; k++) sum[a * 3 + k] += sum[b * 3 + k];
    border[a] += border[b] - 2 * common;
    around[a].delete(b);
    for (const [o, l] of around[b]) {
      if (o === a) continue;
      around[a].set(o, (around[a].get(o) ?? 0) + l);
      const back = around[o];
      back.set(a, (back.get(a) ?? 0) + (back.get(b) ?? 0));
      back.delete(b);
    }
    around[b].clear();
    version[a]++;
    for (const key of around[a].keys()) offer(Math.min(a, key), Math.max(a, key));
  }
  return listsOf(count, (t) => groups.find(t));
}

function listsOf(count: number, group: (t: number) => number): Uint32Array[] {
  const lists = new Map<number, number[]>();
  for (let t = 0; t < count; t++) {
    const g = group(t);
    const list = lists.get(g);
    if (list) list.push(t);
    else lists.set(g, [t]);
  }
  return [...lists.values()].map((list) => Uint32Array.from(list));
}

/** A chart of these faces, or null when it cannot lie flat within the limits. A face alone always can. */
function flattened(surface: Surface, triangles: Uint32Array, options: ChartOptions): Chart | null {
  return accepted(surface, relaxFlat(surface, projected(surface, triangles), 4, STEPS), options);
}

function accepted(surface: Surface, relaxed: Flat, options: ChartOptions): Chart | null {
  const flat = toArea(surface, relaxed);
  const stretch = stretchOf(surface, flat);
  if (flat.triangles.length === 1) return { flat, stretch };
  if (stretch.flipped > 0 || stretch.l2 > options.stretch || stretch.high > stretch.low * options.spread) return null;
  return bordersCross(surface, flat) ? null : { flat, stretch };
}

/** Two halves by the direction in which normals differ most; each piece that hangs together is a group of its own. */
function divided(surface: Surface, triangles: Uint32Array, cut: Uint8Array): Uint32Array[] {
  const { normals, areas } = surface;
  const n = meanNormal(surface, triangles);
  const off = (t: number) => 1 - (normals[t * 3] * n[0] + normals[t * 3 + 1] * n[1] + normals[t * 3 + 2] * n[2]);
  // Two seeds: the face whose normal is farthest from the mean, and that farthest from it; then two means.
  let seed = triangles[0];
  for (const triangle of triangles) if (areas[triangle] > 0 && off(triangle) > off(seed)) seed = triangle;
  const like = (t: number, c: readonly number[]) =>
    normals[t * 3] * c[0] + normals[t * 3 + 1] * c[1] + normals[t * 3 + 2] * c[2];
  let a = [...normals.subarray(seed * 3, seed * 3 + 3)] as readonly number[];
  let far = triangles[0];
  for (const triangle of triangles) if (areas[triangle] > 0 && like(triangle, a) < like(far, a)) far = triangle;
  let b = [...normals.subarray(far * 3, far * 3 + 3)] as readonly number[];
  let inA = new Set<number>();
  for (let round = 0; round < 5; round++) {
    inA = new Set(triangles.filter((triangle) => like(triangle, a) >= like(triangle, b)));
    const [listA, listB] = [
      triangles.filter((triangle) => inA.has(triangle)),
      triangles.filter((triangle) => !inA.has(triangle)),
    ];
    if (listA.length === 0 || listB.length === 0) break;
    a = meanNormal(surface, listA);
    b = meanNormal(surface, listB);
  }
  let pieces = connected(surface, triangles, (t) => (inA.has(t) ? 1 : 0), cut);
  if (pieces.length === 1) {
    // All alike in normals and still not flat: halves in the order of the faces.
    const half = new Set(triangles.subarray(0, triangles.length >> 1));
    pieces = connected(surface, triangles, (t) => (half.has(t) ? 1 : 0), cut);
  }
  return pieces;
}

/** Pieces of faces of one label that hang together. */
function connected(
  surface: Surface,
  triangles: Uint32Array,
  label: (t: number) => number,
  cut: Uint8Array,
): Uint32Array[] {
  const inside = new Set(triangles);
  const out: Uint32Array[] = [];
  const done = new Set<number>();
  for (const seed of triangles) {
    if (done.has(seed)) continue;
    const list = [seed];
    done.add(seed);
    for (let at = 0; at < list.length; at++)
      for (let k = 0; k < 3; k++) {
        const s = list[at] * 3 + k;
        if (cut[s]) continue;
        const t = Math.floor(surface.twin[s] / 3);
        if (!inside.has(t) || done.has(t) || label(t) !== label(seed)) continue;
        done.add(t);
        list.push(t);
      }
    out.push(Uint32Array.from(list).sort());
  }
  return out;
}

/** Joins neighbours while that stays within the limits. */
function joinCharts(surface: Surface, charts: Chart[], cut: Uint8Array, options: ChartOptions): Chart[] {
  const list: (Chart | null)[] = charts.slice();
  const chartOf = new Int32Array(surface.areas.length).fill(-1);
  list.forEach((chart, i) => {
    for (const triangle of chart?.flat.triangles ?? []) chartOf[triangle] = i;
  });
  const common: Map<number, number>[] = list.map(() => new Map());
  for (let s = 0; s < cut.length; s++) {
    if (cut[s]) continue;
    const a = chartOf[Math.floor(s / 3)];
    const b = chartOf[Math.floor(surface.twin[s] / 3)];
    if (a !== b) common[a].set(b, (common[a].get(b) ?? 0) + lengthOfSide(surface, s));
  }
  const packs = ({ flat, stretch }: Chart) =>
    options.whole === undefined || packsWell(flat, stretch.area, options.whole);
  const queue = offerQueue();
  const offers: { a: number; b: number; versionA: number; versionB: number }[] = [];
  const version = new Int32Array(list.length);
  const failed: Set<number>[] = list.map(() => new Set());
  const areaOf = (c: number) => list[c]?.stretch.area ?? 0;
  const offer = (a: number, b: number) => {
    offers.push({ a, b, versionA: version[a], versionB: version[b] });
    // Small pairs first, so that each face is flattened again only a few times; among like ones, what has most border in common.
    const size = Math.sqrt(areaOf(a) + areaOf(b));
    const cost = (size * size) / Math.max(1e-12, Math.min(size, common[a].get(b) ?? 0));
    queue.push({ cost, item: offers.length - 1 });
  };
  common.forEach((m, a) => {
    for (const b of m.keys()) if (a < b) offer(a, b);
  });
  const begun = list.length;
  let left = begun;
  for (let next = queue.pop(); next; next = queue.pop()) {
    if (options.cancelled?.()) break;
    const { a, b, versionA, versionB } = offers[next.item];
    const [x, y] = [list[a], list[b]];
    if (!x || !y || version[a] !== versionA || version[b] !== versionB) continue;
    // Most pairs that cannot lie flat show it at once.
    const hopeless = (after: Flat, round: number) =>
      round < 2 && l2Of(surface, after) > 1 + (options.stretch - 1) * (round === 0 ? 3 : 1.6);
    const chart = accepted(surface, relaxFlat(surface, beside(surface, x.flat, y.flat), 4, STEPS, hopeless), options);
    if (!chart || !packs(chart)) {
      // What is larger still would not lie flat, or pack well, either.
      failed[a].add(b);
      failed[b].add(a);
      continue;
    }
    list[a] = chart;
    list[b] = null;
    version[a]++;
    common[a].delete(b);
    for (const [other, l] of common[b]) {
      if (other === a) continue;
      common[a].set(other, (common[a].get(other) ?? 0) + l);
      const back = common[other];
      back.set(a, (back.get(a) ?? 0) + (back.get(b) ?? 0));
      back.delete(b);
    }
    common[b].clear();
    for (const other of failed[b]) {
      failed[a].add(other);
      failed[other].add(a);
    }
    for (const other of common[a].keys()) if (!failed[a].has(other)) offer(Math.min(a, other), Math.max(a, other));
    options.progress?.(0.5 + 0.45 * (1 - --left / begun));
  }
  return list.filter((chart) => chart !== null);
}

/** Both pieces as one: the second turned and moved so that the places that both have lie as near as they can. */
function beside(surface: Surface, flat: Flat, b: Flat): Flat {
  const inA = new Map<number, number>();
  flat.places.forEach((place, i) => {
    inA.set(place, i);
  });
  let n = 0;
  const sums = [0, 0, 0, 0];
  b.places.forEach((place, i) => {
    const j = inA.get(place);
    if (j === undefined) return;
    n++;
    sums[0] += flat.uv[2 * j];
    sums[1] += flat.uv[2 * j + 1];
    sums[2] += b.uv[2 * i];
    sums[3] += b.uv[2 * i + 1];
  });
  const [ax, ay, bx, by] = sums.map((v) => v / Math.max(1, n));
  let c = 0;
  let s = 0;
  b.places.forEach((place, i) => {
    const j = inA.get(place);
    if (j === undefined) return;
    const [ex, ey] = [b.uv[2 * i] - bx, b.uv[2 * i + 1] - by];
    const [fx, fy] = [flat.uv[2 * j] - ax, flat.uv[2 * j + 1] - ay];
    c += ex * fx + ey * fy;
    s += ex * fy - ey * fx;
  });
  const l = Math.sqrt(c * c + s * s);
  [c, s] = l > 1e-18 ? [c / l, s / l] : [1, 0];
  const inB = new Map<number, number>();
  b.places.forEach((place, i) => {
    inB.set(place, i);
  });
  const moved = (i: number): [number, number] => {
    const [x, y] = [b.uv[2 * i] - bx, b.uv[2 * i + 1] - by];
    return [ax + c * x - s * y, ay + s * x + c * y];
  };
  const triangles = new Uint32Array(flat.triangles.length + b.triangles.length);
  triangles.set(flat.triangles);
  triangles.set(b.triangles, flat.triangles.length);
  return flatOf(surface, triangles, (p) => {
    const [i, j] = [inA.get(p), inB.get(p)];
    if (i !== undefined && j !== undefined) {
      const [x, y] = moved(j);
      return [(flat.uv[2 * i] + x) / 2, (flat.uv[2 * i + 1] + y) / 2];
    }
    return i !== undefined ? [flat.uv[2 * i], flat.uv[2 * i + 1]] : moved(j as number);
  });
}
