import { type FilledMap, fillBeyond } from '@wembrel/core/bake/fill';
import { padSheet } from '@wembrel/core/bake/padding';
import { type SheetMaps, type TransferInput, TransferScratch, transferTile } from '@wembrel/core/bake/transfer';
import { type CancelFlag, stopped } from '../pool/cancel-flag.ts';
import { taskGroup } from '../pool/task.ts';

const scratches = new Map<number, TransferScratch>();

function scratchOf(slot: number): TransferScratch {
  const scratch = scratches.get(slot) ?? new TransferScratch(slot);
  scratches.set(slot, scratch);
  return scratch;
}

/** What worker threads do while sheets are baked. */
export const bakeTasks = taskGroup('bake', {
  /** Takes tiles of one material from a shared counter until none is left. */
  async bakeTiles(input: {
    input: TransferInput;
    tiles: Uint32Array;
    lists: Uint32Array[];
    next: Int32Array;
    done: Int32Array;
    cancel: CancelFlag;
    /** Of this worker among those that bake the same. */
    slot: number;
  }): Promise<void> {
    const scratch = scratchOf(input.slot);
    for (;;) {
      const i = stopped(input.cancel) ? input.tiles.length : Atomics.add(input.next, 0, 1);
      if (i >= input.tiles.length) break;
      transferTile(input.input, input.tiles[i], input.lists[i], scratch);
      Atomics.add(input.done, 0, 1);
    }
    scratch.shader.close();
  },

  /** @returns where islands or padding lie, see `padSheet` */
  async pad(input: { maps: SheetMaps; padding: number }): Promise<Uint8Array> {
    return padSheet(input.maps, input.padding);
  },

  async fill(input: { maps: SheetMaps; map: FilledMap; known: Uint8Array }): Promise<void> {
    fillBeyond(input.maps, input.map, input.known);
  },
});
