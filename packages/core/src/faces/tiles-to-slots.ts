import { boxAround } from '../math/box.ts';
import { tileNumber, tileOf, withinTile } from '../mesh/uv-tiles.ts';
import { chosenIslands } from './chosen-islands.ts';
import { type Chosen, writableUv } from './face-table.ts';

/**
 * Gives every UV tile of a slot a slot of its own, called after the tile's number, with its UVs moved into 0–1. Slots on one tile alone keep
 * their name.
 * @param nameOf name of a slot by its number @param slotFor number of the slot of a name that is made of another's material
 * @returns how many slots were made
 */
export function tilesToSlots(
  chosen: readonly Chosen[],
  nameOf: (slot: number) => string,
  slotFor: (name: string, like: number) => number,
): number {
  const islands = chosen.flatMap((chosen) =>
    chosenIslands(chosen, 0).map((island) => {
      const { uv, faces } = island;
      const tile = tileOf(boxAround([uv]));
      return { c: chosen, island, tile, slot: chosen.table.slots[faces[0]] };
    }),
  );
  const tiles = new Map<number, Set<string>>();
  for (const { slot, tile } of islands) tiles.set(slot, (tiles.get(slot) ?? new Set()).add(tile.join()));
  const made = new Set<number>();
  for (const { c: chosen, island, tile, slot } of islands) {
    const to = writableUv(chosen.table, 0);
    const several = (tiles.get(slot)?.size ?? 0) > 1;
    const own = several ? slotFor(`${nameOf(slot)}_${tileNumber(tile[0], tile[1])}`, slot) : slot;
    if (several) made.add(own);
    for (const face of island.faces) {
      if (several) {
        chosen.table.slots[face] = own;
        chosen.table.wroteSlots = true;
      }
      for (let i = face * 6; i < face * 6 + 6; i++) to[i] = withinTile(to[i], tile[i % 2]);
    }
  }
  return made.size;
}
