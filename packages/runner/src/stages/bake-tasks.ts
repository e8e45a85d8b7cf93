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
  async bakeTiles(m: {
    input: TransferInput;
    tiles: Uint32Array;
    lists: Uint32Array[];
    next: Int32Array;
    done: Int32Array;
    cancel: CancelFlag;
    /** Of this worker among those that bake the same. */
    slot: number;
  }): Promise<void> {
    const scratch = scratchOf(m.slot);
    for (;;) {
      const i = stopped(m.cancel) ? m.tiles.length : Atomics.add(m.next, 0, 1);
      if (i >= m.tiles.length) break;
      transferTile(m.input, m.tiles[i], m.lists[i], scratch);
      Atomics.add(m.done, 0, 1);
    }
    scratch.shader.close();
  },

  async pad(m: { maps: SheetMaps; padding: number }): Promise<void> {
    padSheet(m.maps, m.padding);
  },
});
