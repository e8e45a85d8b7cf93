import occupancyWasm from './generated/occupancy.ts';
import type { RunMask } from './run-mask.ts';
import { allocate, instantiate } from './wasm.ts';

interface Loops {
  setUp(...numbers: number[]): void;
  clear(): void;
  add(runs: number, count: number, x: number, y: number): void;
  remove(runs: number, count: number, x: number, y: number): void;
  taken(runs: number, count: number, x: number, y: number, left: number, right: number): number;
  firstFitWithin(runs: number, count: number, y: number, minX: number, maxX: number): number;
  firstRow(...numbers: number[]): number;
  firstAlong(...numbers: number[]): number;
}

/** Most runs of a mask: rows times runs in a row. Of all masks that the kernel holds at a time. */
const MOST_RUNS = 1 << 18;
const ROOM = 1 << 20;

/**
 * Most levels of the pyramids, of cells and of blocks: up to 128 cells at a time. Longer runs are looked at in steps; more levels would have to be
 * made again over most of a row for every mask that is added.
 */
const LEVELS = 8;
const BLOCK_LEVELS = 6;

/** Taken cells of a sheet, in WebAssembly; the same as `bitmap.ts`, which it is held against. At most 32 768 cells wide. */
export class Occupancy {
  private readonly loops: Loops;
  private readonly runs: Int32Array;
  private readonly runsAt: number;
  /** How many numbers of masks the kernel has, and how often it forgot them all. */
  private used = 0;
  private forgotten = 0;

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    const shape = (w: number, most: number) => [
      ((w + 63) >>> 6) + 4,
      Math.max(1, Math.min(most, Math.floor(Math.log2(w)) + 1)),
    ];
    const [words, levels] = shape(width, LEVELS);
    const [blockWords, blockLevels] = shape((width + 3) >> 2, BLOCK_LEVELS);
    let end = 1024;
    const take = (bytes: number) => {
      const at = end;
      end += (bytes + 15) & ~15;
      return at;
    };
    const grid = take(levels * height * words * 8);
    const blocks = take(blockLevels * ((height + 3) >> 2) * blockWords * 8);
    const row = take(blockWords * 8 + 32);
    this.runsAt = take(ROOM * 12);
    const blockRuns = take(MOST_RUNS * 12);
    const buffer = allocate(end);
    this.runs = new Int32Array(buffer, this.runsAt, ROOM * 3);
    this.loops = instantiate<Loops>(occupancyWasm, buffer);
    this.loops.setUp(grid, width, height, words, levels, blocks, blockWords, blockLevels, row, blockRuns);
  }

  clear(): void {
    this.loops.clear();
  }

  /** Puts a mask where the kernel reads it. @returns where that is */
  private hold(mask: RunMask): number {
    const { held } = mask;
    if (held?.by === this && held.forgotten === this.forgotten) return held.at;
    const { length } = mask.runs;
    if (length > MOST_RUNS * 3) throw new Error('a shape has too many pieces to be packed');
    if (this.used + length > this.runs.length) {
      this.forgotten++;
      this.used = 0;
    }
    const at = this.runsAt + this.used * 4;
    this.runs.set(mask.runs, this.used);
    this.used += length;
    mask.held = { by: this, forgotten: this.forgotten, at };
    return at;
  }

  /** Takes the cells of the mask placed at (x, y); cells outside are ignored. */
  add(mask: RunMask, x: number, y: number): void {
    this.loops.add(this.hold(mask), mask.runs.length / 3, x, y);
  }

  /** Frees the cells of the mask that was added at (x, y). */
  remove(mask: RunMask, x: number, y: number): void {
    this.loops.remove(this.hold(mask), mask.runs.length / 3, x, y);
  }

  /** How many cells of the mask placed at (x, y) are taken; those above the grid, left of `left` and from `right` on count as taken. */
  taken(mask: RunMask, x: number, y: number, left = 0, right = this.width): number {
    return this.loops.taken(this.hold(mask), mask.runs.length / 3, x, y, left, right);
  }

  /** The least x in minX … maxX at which the mask, with its top at y, meets no taken cell; minX − 1 when there is none. */
  firstFitWithin(mask: RunMask, y: number, minX: number, maxX: number): number {
    return this.loops.firstFitWithin(this.hold(mask), mask.runs.length / 3, y, minX, maxX);
  }

  /** The first row y … lastY, from 0, with such a place, in row y itself from `startX` on; null when there is none. */
  firstRow(
    mask: RunMask,
    y: number,
    lastY: number,
    minX: number,
    maxX: number,
    startX = minX,
  ): { x: number; y: number } | null {
    if (maxX < minX || y > lastY) return null;
    const found = this.loops.firstRow(this.hold(mask), mask.runs.length / 3, y, lastY, minX, maxX, startX);
    return found < 0 ? null : { x: found & 65535, y: found >> 16 };
  }

  /**
   * The place in such rows with the least `ROW` · row + tilt · x from least to most, the uppermost of several; null when there is none.
   * @param tilt a whole number, at least 1
   */
  firstAlong(
    mask: RunMask,
    y: number,
    lastY: number,
    minX: number,
    maxX: number,
    along: { tilt: number; least: number; most: number },
  ): { x: number; y: number } | null {
    if (maxX < minX || y > lastY) return null;
    const { tilt, least, most } = along;
    const count = mask.runs.length / 3;
    const found = this.loops.firstAlong(this.hold(mask), count, y, lastY, minX, maxX, tilt, least, most);
    return found < 0 ? null : { x: found & 65535, y: found >> 16 };
  }
}

/** What a row counts where places are compared by how far along they lie; a column counts the tilt. */
export const ROW = 1024;
