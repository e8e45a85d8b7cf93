import type { SheetMaps } from '@wembrel/core/bake/transfer';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { STATE_VALUES } from '@wembrel/core/recipes/blend/state';
import type { Checkpoints } from '@wembrel/core/recipes/evaluate';
import type { RecipeInputs } from '@wembrel/core/recipes/inputs/input-maps';
import { firstChanged, lineKeys, type PictureKeys } from '@wembrel/core/recipes/line-keys';
import type { PreparedLines } from '@wembrel/core/recipes/prepare';
import type { RecipeSurface } from '@wembrel/core/recipes/surface';
import type { JobScope } from '../pool/job-scope.ts';
import { evaluateRecipe, type LineReport } from './evaluate.ts';

/** Bytes of states that are kept between two evaluations. */
const KEEP_BYTES = 512 * 1024 ** 2;

/** What is laid at a time. */
export interface SessionLines {
  recipe: Recipe;
  prepared: PreparedLines;
  inputs: RecipeInputs;
  /** Contents of the pictures that the recipe names. */
  pictures: PictureKeys;
}

/** What came of it. */
export interface Laid {
  maps: SheetMaps;
  lines: LineReport[];
  /** Position of the first line that was evaluated; the state before it was still there. */
  from: number;
}

/**
 * A recipe that is tuned: the states between its lines are kept, one sample a texel, so that only the lines from a change on are evaluated again. What is read for
 * conditions is taken as it is; who makes it anew begins another session.
 */
export class RecipeSession {
  private keys: string[] = [];
  private states: Checkpoints['states'] = [];

  /** @param base what is there before all lines; it stays as it is */
  constructor(
    private readonly surface: RecipeSurface,
    private readonly base: SheetMaps,
    private readonly scope: JobScope,
  ) {}

  /** @throws Cancelled; what was kept is then evaluated again */
  async lay({ recipe, prepared, inputs, pictures }: SessionLines): Promise<Laid> {
    const keys = lineKeys(recipe, prepared.lines, pictures);
    const from = this.lastKept(firstChanged(this.keys, keys));
    const states = this.statesFor(keys.length, from);
    // What is evaluated from here on is of no use until all of it is done.
    this.keys = keys.slice(0, from);
    const maps = copied(this.base);
    const lines = await evaluateRecipe(
      { recipe, prepared, surface: this.surface, inputs, maps, grid: 1, checkpoints: { states, from } },
      this.scope,
    );
    this.keys = keys;
    this.states = states;
    return { maps, lines, from };
  }

  /** The last line up to a position before which the state is kept. */
  private lastKept(position: number): number {
    let from = Math.min(position, this.states.length);
    while (from > 0 && !this.states[from - 1]) from--;
    return from;
  }

  /** Room for the state after each line; after every second or third one where all would be too much. */
  private statesFor(lines: number, from: number): Checkpoints['states'] {
    const texels = this.surface.width * this.surface.height;
    const stride = Math.max(1, Math.ceil((lines * texels * (STATE_VALUES * 4 + 1)) / KEEP_BYTES));
    return Array.from({ length: lines }, (_, k) => {
      if (k < from && this.states[k]) return this.states[k];
      if ((k + 1) % stride !== 0) return null;
      return (
        this.states[k] ?? {
          values: new Float32Array(new SharedArrayBuffer(texels * STATE_VALUES * 4)),
          changed: new Uint8Array(new SharedArrayBuffer(texels)),
        }
      );
    });
  }
}

/** Maps of their own, in shared memory. */
function copied(maps: SheetMaps): SheetMaps {
  const bytes = <T extends Uint8Array | null>(data: T): T => {
    if (!data) return data;
    const out = new Uint8Array(new SharedArrayBuffer(data.length));
    out.set(data);
    return out as T;
  };
  return {
    ...maps,
    baseColor: bytes(maps.baseColor),
    orm: bytes(maps.orm),
    normal: bytes(maps.normal),
    emissive: bytes(maps.emissive),
  };
}
