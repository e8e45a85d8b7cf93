import type { StockLook } from '@wembrel/core/decisions/recipe/look';
import { InputError } from '@wembrel/core/errors';
import type { Raster } from '@wembrel/core/image/raster';
import { type Checkpoints, RecipeEvaluator } from '@wembrel/core/recipes/evaluate';
import { type DistanceTiles, measureDistances } from '@wembrel/core/recipes/inputs/distances';
import { type IdPicture, readIdPicture, resizedIds } from '@wembrel/core/recipes/inputs/id-picture';
import type { RecipeJob } from '@wembrel/core/recipes/job';
import { type GaussTables, gaussTables } from '@wembrel/core/recipes/looks/break-up';
import { paintStock, type StockPictures } from '@wembrel/core/recipes/stock/stock';
import type { LevelSet } from '@wembrel/kernels/sample';
import { type CancelFlag, stopped } from '../pool/cancel-flag.ts';
import { taskGroup } from '../pool/task.ts';

/** Tiles of a sheet for several workers, who take them from a shared counter. */
export interface SharedTiles {
  numbers: Uint32Array;
  lists: Uint32Array[];
  next: Int32Array;
  done: Int32Array;
  cancel: CancelFlag;
}

/** The tiles that a worker takes, until none is left. */
function* taken({ numbers, next, done, cancel }: SharedTiles): Generator<number> {
  for (;;) {
    const i = stopped(cancel) ? numbers.length : Atomics.add(next, 0, 1);
    if (i >= numbers.length) return;
    yield i;
    Atomics.add(done, 0, 1);
  }
}

/** What worker threads do for recipes. */
export const recipeTasks = taskGroup('recipe', {
  async paintStock(input: { look: StockLook; side: number }): Promise<StockPictures> {
    return paintStock(input.look, input.side);
  },

  async gauss(input: { set: LevelSet }): Promise<GaussTables> {
    return gaussTables(input.set);
  },

  /** A picture of IDs at the size of the sheet. @throws InputError where it is none */
  async readIds(input: { path: string; raster: Raster; size: readonly [number, number] }): Promise<IdPicture> {
    const { raster, size } = input;
    try {
      const read = readIdPicture(raster);
      return { ...read, texels: resizedIds(read.texels, [raster.width, raster.height], size) };
    } catch (error) {
      if (error instanceof RangeError) throw new InputError(input.path, error.message);
      throw error;
    }
  },

  async distances(input: { work: DistanceTiles; tiles: SharedTiles }): Promise<void> {
    const { numbers, lists } = input.tiles;
    const byTile = new Map(Array.from(numbers, (tile, i) => [tile, lists[i]]));
    for (const i of taken(input.tiles)) measureDistances(input.work, { numbers: [numbers[i]], lists: byTile });
  },

  /** @param reached texels and sum of each line, tile after tile */
  async evaluate(input: {
    job: RecipeJob;
    tiles: SharedTiles;
    slot: number;
    reached: Float64Array;
    checkpoints: Checkpoints | null;
  }): Promise<void> {
    const { job, tiles, slot, reached, checkpoints } = input;
    const evaluator = new RecipeEvaluator(job, slot);
    for (const i of taken(tiles))
      evaluator.tile(tiles.numbers[i], tiles.lists[i], checkpoints).forEach(({ texels, sum }, line) => {
        reached[(i * job.lines.length + line) * 2] = texels;
        reached[(i * job.lines.length + line) * 2 + 1] = sum;
      });
  },
});
