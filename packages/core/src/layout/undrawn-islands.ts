import { TriangleGrid } from '../mesh/overlap.ts';
import { type Part, undrawnRole } from '../scene/model.ts';

/** An island of a part, as far as deciding whose bay it shares goes. */
export interface OutlinedIsland {
  /** Six numbers for each triangle, texels. */
  coords: Float64Array;
  minX: number;
  minY: number;
  maxX: number;
  maxY: number;
  /** Equal for islands that sample the same texels. */
  key: string;
}

/** Islands of parts that are not drawn: which have a bay of their own, and which share that of a drawn one. */
export interface UndrawnIslands<I> {
  own: I[];
  following: { island: I; leader: I }[];
}

/** Share of an island that must lie on a drawn one for it to share its bay. */
const COVERED = 0.95;

/** Whether a part that is not drawn can lie on a sheet at all: it has the faces and the UVs for it. @param sets UV sets that are read */
export const isLaid = (part: Part, sets: readonly number[]): boolean =>
  part.instances.length > 0 || (part.mode >= 4 && sets.every((set) => part.uvs[set]));

/**
 * What becomes of islands that are not drawn. Lower levels of detail share the bays of what is drawn where they lie on it, and have bays of
 * their own elsewhere. Other parts have none: all their islands share bays, or the part stays off the sheet with its own material.
 * @param parts those not drawn, with their islands @param size of the texture, texels: a level that repeats what the drawn does not is left off
 */
export function undrawnIslands<I extends OutlinedIsland>(
  drawn: readonly I[],
  parts: readonly { part: Part; islands: I[] }[],
  size: readonly [number, number],
): UndrawnIslands<I> {
  const out: UndrawnIslands<I> = { own: [], following: [] };
  if (parts.length === 0) return out;
  const byKey = new Map(drawn.map((island) => [island.key, island]));
  const repeats = drawn.some((island) => isWider(island, size));
  for (const { part, islands } of parts) {
    const role = undrawnRole(part);
    // What is hidden may be shown one day, so only what is the same will do.
    const under = role === 'hidden' ? islands.map(() => undefined) : leaders(drawn, islands);
    const found = islands.map((island, i) => ({ island, leader: byKey.get(island.key) ?? under[i] }));
    const alone = found.flatMap(({ island, leader }) => (leader ? [] : [island]));
    if (role === 'level' ? !repeats && alone.some((island) => isWider(island, size)) : alone.length > 0) continue;
    out.own.push(...alone);
    for (const { island, leader } of found) if (leader) out.following.push({ island, leader });
  }
  return out;
}

const isWider = ({ minX, minY, maxX, maxY }: OutlinedIsland, [width, height]: readonly [number, number]): boolean =>
  maxX - minX > width * (1 + 1e-4) || maxY - minY > height * (1 + 1e-4);

/** For each island the drawn one on which nearly all of it lies, by the middles of its triangles. */
function leaders<I extends OutlinedIsland>(drawn: readonly I[], islands: readonly I[]): (I | undefined)[] {
  const owner = Uint32Array.from(drawn.flatMap(({ coords }, i) => new Array<number>(coords.length / 6).fill(i)));
  const middles = islands.flatMap(({ coords }) => middlesOf(coords));
  const all = new Float64Array((owner.length + middles.length) * 6);
  let at = 0;
  for (const { coords } of drawn) {
    all.set(coords, at);
    at += coords.length;
  }
  for (const { x, y } of middles) {
    all.set([x, y, x, y, x, y], at);
    at += 6;
  }
  const grid = new TriangleGrid(
    all,
    Uint32Array.from({ length: all.length / 6 }, (_, t) => t),
  );
  for (let t = 0; t < owner.length; t++) grid.nearThenAdd(t, () => {});
  let middle = owner.length;
  return islands.map(({ coords }) => {
    const weight = new Map<number, number>();
    let total = 0;
    for (const { area } of middlesOf(coords)) {
      const point = middle++;
      const over = new Set<number>();
      grid.nearThenAdd(point, (t) => {
        if (t < owner.length && isInside(all, t * 6, all[point * 6], all[point * 6 + 1])) over.add(owner[t]);
      });
      total += area;
      for (const i of over) weight.set(i, (weight.get(i) ?? 0) + area);
    }
    const [best] = [...weight].sort(([a, wa], [b, wb]) => wb - wa || a - b);
    return best && best[1] >= COVERED * total ? drawn[best[0]] : undefined;
  });
}

/** Middle and area of each triangle, px and px². */
function middlesOf(c: Float64Array): { x: number; y: number; area: number }[] {
  return Array.from({ length: c.length / 6 }, (_, t) => {
    const o = t * 6;
    const cross = (c[o + 2] - c[o]) * (c[o + 5] - c[o + 1]) - (c[o + 4] - c[o]) * (c[o + 3] - c[o + 1]);
    return {
      x: (c[o] + c[o + 2] + c[o + 4]) / 3,
      y: (c[o + 1] + c[o + 3] + c[o + 5]) / 3,
      area: Math.abs(cross) / 2 || 1e-9,
    };
  });
}

/** Whether a point lies in a triangle, its border included. */
function isInside(c: Float64Array, o: number, x: number, y: number): boolean {
  let left = false;
  let right = false;
  for (let k = 0; k < 3; k++) {
    const p = o + k * 2;
    const q = o + ((k + 1) % 3) * 2;
    const side = (c[q] - c[p]) * (y - c[p + 1]) - (c[q + 1] - c[p + 1]) * (x - c[p]);
    if (side > 1e-9) left = true;
    if (side < -1e-9) right = true;
  }
  return !(left && right);
}
