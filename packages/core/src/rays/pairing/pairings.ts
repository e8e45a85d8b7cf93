import type { PairingDecision, RayDecisions } from '../../decisions/ray-decisions.ts';
import type { ObjectRef, SceneObject } from '../target/scene-objects.ts';

/** Pairings that were found, and the objects that found no partner. */
export interface FoundPairings {
  pairings: PairingDecision[];
  aloneHigh: ObjectRef[];
  aloneLow: ObjectRef[];
  /** High-polys that could go to another low-poly as well. */
  ambiguous?: AmbiguousPairing[];
}

/** Box of a object in world space: low x y z, high x y z. */
export type ObjectBox = readonly [number, number, number, number, number, number];

const refOf = (objectRef: ObjectRef): ObjectRef => ({ path: objectRef.path, name: objectRef.name });
const byName = (objectRef: ObjectRef, b: ObjectRef) =>
  objectRef.name < b.name ? -1 : objectRef.name > b.name ? 1 : objectRef.path < b.path ? -1 : 1;

/** A pairing with nothing but measured defaults. */
export function pairing(
  name: string,
  high: ObjectRef[],
  low: ObjectRef[],
  move: [number, number, number] = [0, 0, 0],
): PairingDecision {
  return {
    name,
    high: high.map(refOf),
    low: low.map(refOf),
    sheet: null,
    outward: null,
    inward: null,
    localReaches: [],
    move,
    cage: null,
    surface: null,
    offsets: {},
  };
}

/** What a name says: its stem, and of which kind it is; null where it has no ending. Exporters' numbers (`.001`) and further words behind the ending are allowed. */
export function readName(
  name: string,
  endings: RayDecisions['endings'],
): { stem: string; kind: 'high' | 'low' } | null {
  let best: { stem: string; kind: 'high' | 'low'; at: number; length: number } | null = null;
  const lower = name.toLowerCase();
  for (const kind of ['high', 'low'] as const)
    for (const ending of endings[kind]) {
      const at = lower.lastIndexOf(ending.toLowerCase());
      if (at < 1) continue;
      const rest = name.slice(at + ending.length);
      if (rest !== '' && !/^[\s._-]/.test(rest) && !/^\d+$/.test(rest)) continue;
      if (!best || at > best.at || (at === best.at && ending.length > best.length))
        best = { stem: lower.slice(0, at), kind, at, length: ending.length };
    }
  return best && { stem: best.stem, kind: best.kind };
}

/** Name of the maps that a pairing is baked onto. */
export const sheetOf = (pairing: Pick<PairingDecision, 'sheet' | 'low' | 'name'>): string =>
  pairing.sheet ?? fileStem(pairing.low[0]?.path ?? pairing.name);

/**
 * Pairings by their maps, in the order in which these are first named. Low-polys of different files with one name do not share maps unless they are reported
 * to: the later ones get a number.
 */
export function bySheet(pairings: readonly PairingDecision[]): { name: string; pairings: PairingDecision[] }[] {
  const out = new Map<string, { name: string; pairings: PairingDecision[] }>();
  const taken = new Set(pairings.flatMap((pairing) => (pairing.sheet === null ? [] : [pairing.sheet.toLowerCase()])));
  for (const pairing of pairings) {
    const key = pairing.sheet === null ? `file ${pairing.low[0]?.path ?? pairing.name}` : `name ${pairing.sheet}`;
    const known = out.get(key);
    if (known) {
      known.pairings.push(pairing);
      continue;
    }
    let name = sheetOf(pairing);
    for (let i = 2; pairing.sheet === null && taken.has(name.toLowerCase()); i++) name = `${sheetOf(pairing)}_${i}`;
    taken.add(name.toLowerCase());
    out.set(key, { name, pairings: [pairing] });
  }
  return [...out.values()];
}

/** Name of a file without folder and ending. */
export const fileStem = (path: string): string => path.replace(/^.*[/\\]/, '').replace(/\.[^.]*$/, '');

/**
 * Pairs by name endings: objects with one stem belong together, several high-polys to one low-poly. An object whose own name has no ending goes by its file's; where several of such files have namesakes one by one, these belong together.
 * @param only `high` or `low` for the objects whose kind is known already (files given as such); others are found by their endings
 */
export function pairByNames(
  objects: readonly SceneObject[],
  endings: RayDecisions['endings'],
  only?: (b: SceneObject) => 'high' | 'low' | null,
): FoundPairings {
  const stems = new Map<string, Sides>();
  /** Objects that go by the names of their files. */
  const byFile = new Set<SceneObject>();
  const alone: FoundPairings = { pairings: [], aloneHigh: [], aloneLow: [] };
  for (const object of objects) {
    const given = only?.(object) ?? null;
    const own = readName(object.name, endings);
    const read = own && (!given || own.kind === given) ? own : readName(fileStem(object.path), endings);
    if (read !== own) byFile.add(object);
    const kind = given ?? read?.kind;
    if (!kind) continue;
    // Without an ending a name stands for itself: "post" pairs with "post_high" where the files say which is which.
    const stem = read?.kind === kind ? read.stem : object.name.toLowerCase();
    const set = stems.get(stem) ?? { high: [], low: [] };
    set[kind].push(object);
    stems.set(stem, set);
  }
  const apart = [...stems].flatMap(([stem, sides]): [string, Sides][] => bySameNames(sides, byFile) ?? [[stem, sides]]);
  for (const [stem, { high, low }] of apart.sort(([a], [b]) => (a < b ? -1 : 1))) {
    if (high.length > 0 && low.length > 0) alone.pairings.push(pairing(stem, high.sort(byName), low.sort(byName)));
    else if (high.length > 0) alone.aloneHigh.push(...high.map(refOf));
    else alone.aloneLow.push(...low.map(refOf));
  }
  return alone;
}

interface Sides {
  high: SceneObject[];
  low: SceneObject[];
}

/**
 * Objects that go by the names of their files, apart, where several are called alike in both: "lid" of `box_high` with "lid" of `box_low`.
 * Null where any has no namesake: details of their own belong to all.
 */
function bySameNames({ high, low }: Sides, byFile: ReadonlySet<SceneObject>): [string, Sides][] | null {
  if (low.length < 2 || ![...high, ...low].every((object) => byFile.has(object))) return null;
  const names = new Map<string, Sides>();
  const add = (object: SceneObject, side: keyof Sides) => {
    const name = object.name.toLowerCase();
    const sides = names.get(name) ?? { high: [], low: [] };
    sides[side].push(object);
    names.set(name, sides);
  };
  for (const object of high) add(object, 'high');
  for (const object of low) add(object, 'low');
  const all = [...names];
  return all.every(([, sides]) => sides.high.length > 0 && sides.low.length > 0) ? all : null;
}

/** Share by which the sizes of partners may differ. */
const UNLIKE = 0.4;
/** Ways that are looked at closely. */
const CLOSELY = 12;

/**
 * The way by which most low-polys come to lie on a high-poly of their size: all ways from one to another are sorted into a grid of `near`; those of the fullest
 * cells are counted exactly, and of equal ones the one that fits best wins.
 */
function findMove(
  high: readonly SceneObject[],
  low: readonly SceneObject[],
  box: (b: SceneObject) => ObjectBox,
  near: number,
  alike: (a: ObjectBox, b: ObjectBox) => boolean,
): [number, number, number] | null {
  const cells = new Map<string, { way: [number, number, number]; votes: number }>();
  for (const sceneObject of low)
    for (const h of high) {
      if (!alike(box(sceneObject), box(h))) continue;
      const [a, b] = [centreOf(box(sceneObject)), centreOf(box(h))];
      const way: [number, number, number] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
      const key = way.map((v) => Math.round(v / near)).join();
      const cell = cells.get(key);
      if (cell) cell.votes++;
      else cells.set(key, { way, votes: 1 });
    }
  let best: { way: [number, number, number]; count: number; off: number } | null = null;
  for (const { way } of [...cells.values()].sort((p, q) => q.votes - p.votes).slice(0, CLOSELY)) {
    let count = 0;
    let off = 0;
    for (const sceneObject of low) {
      const centre = centreOf(box(sceneObject));
      let d = Number.POSITIVE_INFINITY;
      for (const h of high) {
        if (!alike(box(sceneObject), box(h))) continue;
        const e = centreOf(box(h));
        d = Math.min(d, Math.hypot(e[0] - centre[0] - way[0], e[1] - centre[1] - way[1], e[2] - centre[2] - way[2]));
      }
      if (d > near) continue;
      count++;
      off += d;
    }
    if (!best || count > best.count || (count === best.count && off < best.off - 1e-12)) best = { way, count, off };
  }
  return best?.way ?? null;
}

const centreOf = (objectBox: ObjectBox) => [0, 1, 2].map((k) => (objectBox[k] + objectBox[k + 3]) / 2);
const sizeOf = (objectBox: ObjectBox) => [0, 1, 2].map((k) => objectBox[k + 3] - objectBox[k]);

/** A high-poly that fits two low-polys nearly as well; it was given to the first. */
export interface AmbiguousPairing {
  high: ObjectRef;
  low: ObjectRef[];
}

/** Shares of a high-poly inside low-polys that count as alike, and how near two fits are. */
const ALIKE_SHARE = 0.05;
const ALIKE_COST = 0.15;

/** Share of a box that lies in another one, which is widened by `near`. */
function shareInside(inner: ObjectBox, outer: ObjectBox, near: number): number {
  let share = 1;
  for (let k = 0; k < 3; k++) {
    const inside = Math.min(outer[k + 3] + near, inner[k + 3]) - Math.max(outer[k] - near, inner[k]);
    share *= Math.max(0, inside) / Math.max(inner[k + 3] - inner[k], near * 1e-3);
  }
  return share;
}

/** How far apart the middles of two boxes are, as a share of their sizes; 0 the same. */
function offMiddle(a: ObjectBox, b: ObjectBox, near: number): number {
  const [s, t] = [sizeOf(a), sizeOf(b)];
  return Math.hypot(...[0, 1, 2].map((k) => (a[k] + a[k + 3] - b[k] - b[k + 3]) / 2 / Math.max(s[k], t[k], near)));
}

/**
 * Pairs by place: the high-polys stand beside the low-polys, all moved by the same way. Without a given move it is the one by which most low-polys lie on a
 * high-poly of their size.
 * @param boxes of each object @param move from low-poly to high-poly, m; null: to be found
 */
export function pairByPlace(
  high: readonly SceneObject[],
  low: readonly SceneObject[],
  boxes: ReadonlyMap<SceneObject, ObjectBox>,
  move: readonly [number, number, number] | null = null,
): FoundPairings & { ambiguous: AmbiguousPairing[]; move: [number, number, number] | null } {
  const box = (sceneObject: SceneObject) => boxes.get(sceneObject) as ObjectBox;
  const largest = Math.max(1e-9, ...[...high, ...low].flatMap((sceneObject) => sizeOf(box(sceneObject))));
  const near = largest * 0.1;
  /** How alike two sizes are: 0 the same. */
  const unlike = (objectBox: ObjectBox, b: ObjectBox) => {
    const [s, t] = [sizeOf(objectBox), sizeOf(b)];
    return Math.max(...[0, 1, 2].map((k) => Math.abs(s[k] - t[k]) / Math.max(s[k], t[k], near)));
  };
  const way = move ?? findMove(high, low, box, near, (objectBox, b) => unlike(objectBox, b) <= UNLIKE);
  if (!way) return { pairings: [], aloneHigh: high.map(refOf), aloneLow: low.map(refOf), ambiguous: [], move: null };
  const partners = new Map<SceneObject, SceneObject[]>();
  const aloneHigh: ObjectRef[] = [];
  const ambiguous: AmbiguousPairing[] = [];
  for (const sceneObject of high) {
    const moved = box(sceneObject).map((v, k) => v - way[k % 3]) as unknown as ObjectBox;
    const over = low
      .map((one) => ({ one, share: shareInside(moved, box(one), near) }))
      .filter(({ share }) => share > 0.5);
    const most = Math.max(0, ...over.map(({ share }) => share));
    // Where several cover it as well, the one of its size and with its middle is meant: a bolt is no part of the panel that it sits on.
    const ranked = over
      .filter(({ share }) => share >= most - ALIKE_SHARE)
      .map(({ one }) => ({ one, cost: unlike(moved, box(one)) + offMiddle(moved, box(one), near) }))
      .sort((x, y) => x.cost - y.cost);
    const [best, next] = ranked;
    if (!best) {
      aloneHigh.push(refOf(sceneObject));
      continue;
    }
    partners.set(best.one, [...(partners.get(best.one) ?? []), sceneObject]);
    if (next && next.cost - best.cost < ALIKE_COST)
      ambiguous.push({ high: refOf(sceneObject), low: [best, next].map(({ one }) => refOf(one)) });
  }
  const back: [number, number, number] = [-way[0], -way[1], -way[2]];
  return {
    pairings: [...partners]
      .map(([sceneObject, hs]) => pairing(sceneObject.name, hs.sort(byName), [sceneObject], back))
      .sort((a, b) => (a.name < b.name ? -1 : 1)),
    aloneHigh,
    aloneLow: low.filter((sceneObject) => !partners.has(sceneObject)).map(refOf),
    ambiguous,
    move: [way[0], way[1], way[2]],
  };
}

/**
 * Parts objects into high-polys and low-polys by how heavy they are: at the largest step between neighbours when they are put in order. Fewer than two, or all as
 * heavy as each other: there are no high-polys.
 * @param triangles of a object
 */
export function splitByWeight<B>(objects: readonly B[], triangles: (b: B) => number): { high: B[]; low: B[] } {
  const order = [...objects].sort((a, b) => triangles(a) - triangles(b));
  let at = order.length;
  let most = 1.5;
  for (let i = 1; i < order.length; i++) {
    const step = triangles(order[i]) / Math.max(1, triangles(order[i - 1]));
    if (step > most) {
      most = step;
      at = i;
    }
  }
  const low = new Set(order.slice(0, at));
  return { high: objects.filter((object) => !low.has(object)), low: objects.filter((object) => low.has(object)) };
}
