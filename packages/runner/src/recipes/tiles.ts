import { binTriangles } from '@wembrel/core/bake/transfer';
import type { RecipeSurface } from '@wembrel/core/recipes/surface';
import type { JobScope } from '../pool/job-scope.ts';
import type { SharedTiles } from './recipe-tasks.ts';

/** All tiles of a surface, for `overTiles`. */
export function sharedTiles(surface: RecipeSurface, scope: JobScope): SharedTiles {
  const lists = binTriangles(surface, surface.width, surface.height);
  const numbers = Uint32Array.from([...lists.keys()].sort((a, b) => a - b));
  const counter = () => new Int32Array(new SharedArrayBuffer(4));
  return {
    numbers,
    lists: Array.from(numbers, (tile) => lists.get(tile) as Uint32Array),
    next: counter(),
    done: counter(),
    cancel: scope.cancel,
  };
}

/** Has all threads work on tiles. @param work of one of them @throws Cancelled */
export async function overTiles(
  tiles: SharedTiles,
  scope: JobScope,
  work: (slot: number) => Promise<void>,
  progress?: (share: number) => void,
): Promise<void> {
  const count = tiles.numbers.length;
  const tick = setInterval(() => progress?.(tiles.done[0] / Math.max(1, count)), 100);
  try {
    const workers = Math.min(scope.threads, Math.max(1, count));
    await Promise.all(Array.from({ length: workers }, (_, slot) => work(slot)));
  } finally {
    clearInterval(tick);
  }
  scope.checkpoint();
}
