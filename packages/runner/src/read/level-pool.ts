import type { LevelHome, LevelSet } from '@wembrel/kernels/sample';

/** Bytes of homes that wait for their next texture, at most. */
const MOST_WAITING = 2 ** 30;

/**
 * Memories of level sets that are needed no more, for the next ones of their size. Shared memory is freed only when it is collected, which nothing hurries: without
 * this, a run holds the textures of all its materials at once.
 */
export class LevelPool {
  private readonly waiting = new Map<string, LevelHome[]>();
  private bytes = 0;

  /** @param at where the room for batches begins @param areas see `LevelHome` @returns null where none of that size waits */
  take(at: number, areas: number): LevelHome | null {
    const home = this.waiting.get(`${at} ${areas}`)?.pop() ?? null;
    if (home) this.bytes -= home.memory.buffer.byteLength;
    return home;
  }

  /** Lets go of all that waits. */
  clear(): void {
    this.waiting.clear();
    this.bytes = 0;
  }

  /** Nobody reads the set any more. */
  giveBack({ home }: LevelSet): void {
    if (!home) return;
    const size = home.memory.buffer.byteLength;
    if (this.bytes + size > MOST_WAITING) return;
    this.bytes += size;
    const key = `${home.at} ${home.areas}`;
    this.waiting.set(key, [...(this.waiting.get(key) ?? []), home]);
  }
}
