import type { FaceEditOf } from '../decisions/face-decisions.ts';
import { boxAround } from '../math/box.ts';
import { type ChosenIsland, chosenIslands, writeIsland } from './chosen-islands.ts';
import { type Chosen, writableUv } from './face-table.ts';

/** Scales, turns (from U towards V, which runs down) and moves UV islands. @returns how many there are */
export function moveIslands(chosen: readonly Chosen[], edit: FaceEditOf<'move'>): number {
  const all = chosen.map((chosen) => ({ c: chosen, islands: chosenIslands(chosen, edit.set) }));
  const angle = (edit.turn * Math.PI) / 180;
  // Quarters are exact.
  const exact = edit.turn % 90 === 0 ? Math.round : (v: number) => v;
  const [cos, sin] = [exact(Math.cos(angle)), exact(Math.sin(angle))];
  const together = middleOf(all.flatMap(({ islands }) => islands));
  for (const { c: chosen, islands } of all) {
    const to = writableUv(chosen.table, edit.set);
    for (const island of islands) {
      const [mu, mv] = edit.about === 'origin' ? [0, 0] : edit.about === 'all' ? together : middleOf([island]);
      const uv = new Float64Array(island.uv.length);
      for (let i = 0; i < uv.length; i += 2) {
        const [x, y] = [(island.uv[i] - mu) * edit.scaleU, (island.uv[i + 1] - mv) * edit.scaleV];
        uv[i] = mu + x * cos - y * sin + edit.u;
        uv[i + 1] = mv + x * sin + y * cos + edit.v;
      }
      writeIsland(to, island, uv);
    }
  }
  return all.reduce((sum, { islands }) => sum + islands.length, 0);
}

/** The middle of the box. */
function middleOf(islands: readonly ChosenIsland[]): [number, number] {
  const [u0, u1, v0, v1] = boxAround(islands.map((i) => i.uv));
  return u1 >= u0 ? [(u0 + u1) / 2, (v0 + v1) / 2] : [0, 0];
}
