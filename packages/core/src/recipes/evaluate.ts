import { TILE } from '../bake/tile-cover.ts';
import { TileSamples, tileFrame } from '../rays/cast/tile-samples.ts';
import { STATE_VALUES, State, TexelSums } from './blend/state.ts';
import type { RecipeJob } from './job.ts';
import { LineEvaluator } from './line.ts';
import { BATCH, Samples } from './samples.ts';

/** How far a line reaches on a tile: texels that it covers by any amount, and the sum of those amounts. */
export interface LineReach {
  texels: number;
  sum: number;
}

/** The state after each line, texel by texel, for one sample a texel: what is before a change need not be evaluated again. */
export interface Checkpoints {
  /** By position among `lines`: `STATE_VALUES` a texel, and what was changed. */
  states: ({ values: Float32Array; changed: Uint8Array } | null)[];
  /** Position of the first line that is evaluated; the state before it is taken from `states`. */
  from: number;
}

/** log2 of the metres between the samples of each triangle: with that of a texel of a picture taken off, the level of detail at which it is read. */
export function levelsOfDetail(metres: Float32Array, grid: number): Float32Array {
  const out = new Float32Array(new SharedArrayBuffer(metres.length * 4));
  // In steps of half a level, so that many triangles are read at a time.
  for (let t = 0; t < out.length; t++) out[t] = Math.round(Math.log2(Math.max(1e-9, metres[t] / grid)) * 2) / 2;
  return out;
}

/** Evaluates tiles of one job; one object a worker. */
export class RecipeEvaluator {
  private readonly found = new TileSamples();
  private readonly samples = new Samples();
  private readonly state = new State();
  private readonly sums = new TexelSums(TILE * TILE);
  /** Made when they are evaluated first: those before a checkpoint never are. */
  private readonly lines: (LineEvaluator | undefined)[];
  private order = new Uint32Array(0);
  private readonly reached: Float32Array[];

  /** @param slot of the worker among those that evaluate the same job */
  constructor(
    readonly job: RecipeJob,
    private readonly slot: number,
  ) {
    this.lines = job.lines.map(() => undefined);
    this.reached = job.lines.map(() => new Float32Array(TILE * TILE));
  }

  /** @param list triangles that may lie on the tile @returns how far each line reaches */
  tile(number: number, list: Uint32Array, checkpoints: Checkpoints | null = null): LineReach[] {
    const { surface, grid, maps } = this.job;
    const frame = tileFrame(number, surface.width, surface.height);
    this.found.find(surface.place, list, frame, grid);
    this.sums.clear();
    for (const reach of this.reached) reach.fill(0);
    this.sortByLevel();
    for (let from = 0; from < this.found.count; from += BATCH) {
      const to = Math.min(this.found.count, from + BATCH);
      this.samples.load(surface, this.found, frame, this.order, from, to);
      this.evaluate(checkpoints, from);
    }
    for (let y = 0; y < frame.height; y++)
      for (let x = 0; x < frame.width; x++)
        this.sums.write(maps, y * TILE + x, (frame.y + y) * surface.width + frame.x + x);
    return this.reached.map((reach) => this.reachOf(reach));
  }

  /** Samples of one level of detail follow each other; within it in the order of the texels. */
  private sortByLevel(): void {
    const { found, job } = this;
    if (this.order.length < found.count) this.order = new Uint32Array(found.count);
    const first = found.count > 0 ? job.lods[found.triangle[0]] : 0;
    let same = true;
    for (let s = 0; s < found.count; s++) {
      this.order[s] = s;
      same &&= job.lods[found.triangle[s]] === first;
    }
    if (same) return;
    const levels = [...new Set(Array.from({ length: found.count }, (_, s) => job.lods[found.triangle[s]]))].sort(
      (a, b) => a - b,
    );
    const starts = new Map<number, number>();
    const counts = new Map<number, number>();
    for (let s = 0; s < found.count; s++) {
      const level = job.lods[found.triangle[s]];
      counts.set(level, (counts.get(level) ?? 0) + 1);
    }
    let at = 0;
    for (const level of levels) {
      starts.set(level, at);
      at += counts.get(level) as number;
    }
    for (let s = 0; s < found.count; s++) {
      const level = job.lods[found.triangle[s]];
      const next = starts.get(level) as number;
      this.order[next] = s;
      starts.set(level, next + 1);
    }
  }

  /** Evaluates the samples that are loaded. @param first position of the first of them in `order` */
  private evaluate(checkpoints: Checkpoints | null, first: number): void {
    const { samples, state, lines, job } = this;
    const begin = checkpoints?.from ?? 0;
    if (begin === 0) state.load(job.maps, samples);
    else this.restore(checkpoints as Checkpoints, begin - 1);
    for (let k = begin; k < lines.length; k++) {
      const line = lines[k] ?? new LineEvaluator(job, job.lines[k], this.slot);
      lines[k] = line;
      const mask = line.apply(samples, state);
      this.noteReach(this.reached[k], mask, first);
      this.keep(checkpoints, k);
    }
    for (let i = 0; i < samples.count; i++) {
      const at = this.found.texel[this.order[first + i]];
      this.sums.add(state, i, at);
    }
  }

  private noteReach(reach: Float32Array, mask: Float32Array, first: number): void {
    for (let i = 0; i < this.samples.count; i++) reach[this.found.texel[this.order[first + i]]] += mask[i];
  }

  private reachOf(reach: Float32Array): LineReach {
    const out = { texels: 0, sum: 0 };
    for (let i = 0; i < reach.length; i++) {
      if (reach[i] === 0) continue;
      out.texels++;
      out.sum += reach[i] / this.sums.samplesOf(i);
    }
    return out;
  }

  private restore({ states }: Checkpoints, k: number): void {
    const { samples, state } = this;
    const kept = states[k];
    if (!kept) throw new Error('the state before the first line that is evaluated was not kept');
    for (let i = 0; i < samples.count; i++) {
      const o = samples.texel[i] * STATE_VALUES;
      state.values.set(kept.values.subarray(o, o + STATE_VALUES), i * STATE_VALUES);
      state.changed[i] = kept.changed[samples.texel[i]];
    }
  }

  private keep(checkpoints: Checkpoints | null, k: number): void {
    const kept = checkpoints?.states[k];
    if (!kept) return;
    const { samples, state } = this;
    for (let i = 0; i < samples.count; i++) {
      kept.values.set(state.values.subarray(i * STATE_VALUES, (i + 1) * STATE_VALUES), samples.texel[i] * STATE_VALUES);
      kept.changed[samples.texel[i]] = state.changed[i];
    }
  }
}
