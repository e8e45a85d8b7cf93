import type { FaceEditOf } from '../decisions/face-decisions.ts';
import { type Flat, relaxFlat, stretchOf } from '../unwrap/flatten.ts';
import { type ChosenIsland, chosenIslands, writeIsland } from './chosen-islands.ts';
import { type Chosen, surfaceOfChosen, writableUv } from './face-table.ts';

export interface RelaxFigures {
  islands: number;
  /** Islands that stayed as they were, since relaxing would have turned faces over or stretched them more. */
  kept: number;
  /** L2 stretch over all islands, before and after. */
  before: number;
  after: number;
}

/**
 * Brings islands nearer to the shape of the surface (`relaxFlat`), then back to their place, turn and area as well as they fit.
 * @param aspect width by height of the picture that a face shows
 */
export function relaxIslands(
  chosen: readonly Chosen[],
  edit: FaceEditOf<'relax'>,
  aspect: (c: Chosen, face: number) => number,
): RelaxFigures {
  const out: RelaxFigures = { islands: 0, kept: 0, before: 0, after: 0 };
  let area = 0;
  for (const c of chosen) {
    const surface = surfaceOfChosen(c);
    const at = new Map<number, number>();
    c.faces.forEach((face, i) => {
      at.set(face, i);
    });
    const to = writableUv(c.table, edit.set);
    for (const island of chosenIslands(c, edit.set)) {
      const wide = aspect(c, island.faces[0]);
      const flat = flatOfIsland(island, at, wide, surface.areas);
      const before = stretchOf(surface, flat.flat);
      const relaxed = relaxFlat(surface, flat.flat, edit.rounds, 200);
      const after = stretchOf(surface, relaxed);
      out.islands++;
      area += before.area;
      out.before += before.l2 ** 2 * before.area;
      if (after.flipped > before.flipped || !(after.l2 <= before.l2)) {
        out.kept++;
        out.after += before.l2 ** 2 * before.area;
        continue;
      }
      out.after += after.l2 ** 2 * before.area;
      const placed = broughtBack(flat.flat, relaxed);
      const uv = new Float64Array(placed.length);
      for (let i = 0; i < uv.length; i += 2) {
        uv[i] = (placed[i] / flat.k / wide) * flat.mirror;
        uv[i + 1] = -placed[i + 1] / flat.k;
      }
      writeIsland(to, island, uv);
    }
  }
  const mean = (sum: number) => (area > 0 ? Math.sqrt(sum / area) : 1);
  return { ...out, before: mean(out.before), after: mean(out.after) };
}

/** An island as it would lie flat in m, V up, not mirrored. */
function flatOfIsland(
  island: ChosenIsland,
  at: ReadonlyMap<number, number>,
  wide: number,
  areas: Float64Array,
): { flat: Flat; k: number; mirror: number } {
  const triangles = island.faces.map((face) => at.get(face) as number);
  const uv = Float64Array.from(island.uv, (v, i) => (i % 2 === 0 ? v * wide : -v));
  let [signed, size, world] = [0, 0, 0];
  triangles.forEach((triangle, i) => {
    const [a, b, c] = [0, 1, 2].map((k) => island.local[i * 3 + k] * 2);
    const s = ((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[c] - uv[a]) * (uv[b + 1] - uv[a + 1])) / 2;
    signed += s;
    size += Math.abs(s);
    world += areas[triangle];
  });
  const k = size > 0 && world > 0 ? Math.sqrt(world / size) : 1;
  const mirror = signed < 0 ? -1 : 1;
  for (let i = 0; i < uv.length; i += 2) {
    uv[i] *= k * mirror;
    uv[i + 1] *= k;
  }
  const places = Uint32Array.from({ length: uv.length / 2 }, (_, i) => i);
  return { flat: { triangles, places, uv, local: island.local }, k, mirror };
}

/** The second piece moved, turned and scaled onto the first: same middle, same area, the turn that fits best. */
function broughtBack(from: Flat, relaxed: Flat): Float64Array {
  const [p, q] = [from.uv, relaxed.uv];
  const n = p.length / 2;
  const middle = (uv: Float64Array) => {
    let [u, v] = [0, 0];
    for (let i = 0; i < uv.length; i += 2) {
      u += uv[i] / n;
      v += uv[i + 1] / n;
    }
    return [u, v];
  };
  const [[pu, pv], [qu, qv]] = [middle(p), middle(q)];
  let [c, s] = [0, 0];
  for (let i = 0; i < p.length; i += 2) {
    const [x, y, a, b] = [q[i] - qu, q[i + 1] - qv, p[i] - pu, p[i + 1] - pv];
    c += a * x + b * y;
    s += b * x - a * y;
  }
  const l = Math.sqrt(c * c + s * s) || 1;
  const scale = Math.sqrt(areaOf(from) / Math.max(areaOf(relaxed), 1e-30));
  const out = new Float64Array(q.length);
  for (let i = 0; i < q.length; i += 2) {
    const [x, y] = [(q[i] - qu) * scale, (q[i + 1] - qv) * scale];
    out[i] = pu + (x * c - y * s) / l;
    out[i + 1] = pv + (x * s + y * c) / l;
  }
  return out;
}

function areaOf({ uv, local }: Flat): number {
  let sum = 0;
  for (let i = 0; i < local.length; i += 3) {
    const [a, b, c] = [local[i] * 2, local[i + 1] * 2, local[i + 2] * 2];
    sum += Math.abs((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[c] - uv[a]) * (uv[b + 1] - uv[a + 1])) / 2;
  }
  return sum;
}
