import type { RunMask } from './bitmap.ts';
import bitmapWasm from './generated/bitmap.ts';
import { allocate, instantiate } from './wasm.ts';

interface Loops {
  setUp(...numbers: number[]): void;
  clear(): void;
  add(runs: number, count: number, x: number, y: number): void;
  firstFitWithin(runs: number, count: number, y: number, minX: number, maxX: number): number;
  firstRow(runs: number, count: number, y: number, lastY: number, minX: number, maxX: number): number;
}

/** Most runs of a mask: rows times runs in a row. */
const ROOM = 1 << 18;

/** Taken cells of a sheet, in WebAssembly; the same as `bitmap.ts`, which it is held against. At most 32 768 cells wide. */
export class FastOccupancy {
  private readonly loops: Loops;
  private readonly runs: Int32Array;
  private readonly runsAt: number;
  private held: RunMask | null = null;

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    const shape = (w: number) => [((w + 63) >>> 6) + 4, Math.max(1, Math.floor(Math.log2(w)) + 1)];
    const [words, levels] = shape(width);
    const [blockWords, blockLevels] = shape((width + 3) >> 2);
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
    const blockRuns = take(ROOM * 12);
    const buffer = allocate(end);
    this.runs = new Int32Array(buffer, this.runsAt, ROOM * 3);
    this.loops = instantiate<Loops>(bitmapWasm, buffer);
    this.loops.setUp(grid, width, height, words, levels, blocks, blockWords, blockLevels, row, blockRuns);
  }

  clear(): void {
    this.loops.clear();
  }

  /** Puts a mask where the kernel reads it. @returns how many runs it has */
  private hold(mask: RunMask): number {
    if (this.held !== mask) {
      if (mask.runs.length > this.runs.length) throw new Error('a shape has too many pieces to be packed');
      this.runs.set(mask.runs);
      this.held = mask;
    }
    return mask.runs.length / 3;
  }

  /** Takes the cells of the mask placed at (x, y); cells outside are ignored. */
  add(mask: RunMask, x: number, y: number): void {
    this.loops.add(this.runsAt, this.hold(mask), x, y);
  }

  /** The least x in minX … maxX at which the mask, with its top at y, meets no taken cell; minX − 1 when there is none. */
  firstFitWithin(mask: RunMask, y: number, minX: number, maxX: number): number {
    return this.loops.firstFitWithin(this.runsAt, this.hold(mask), y, minX, maxX);
  }

  /** The first row y … lastY, from 0, with such a place; null when there is none. */
  firstRow(mask: RunMask, y: number, lastY: number, minX: number, maxX: number): { x: number; y: number } | null {
    if (maxX < minX || y > lastY) return null;
    const found = this.loops.firstRow(this.runsAt, this.hold(mask), y, lastY, minX, maxX);
    return found < 0 ? null : { x: found & 65535, y: found >> 16 };
  }
}
