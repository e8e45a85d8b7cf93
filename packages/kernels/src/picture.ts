import code from './generated/picture.ts';
import { allocate, instantiate } from './wasm.ts';

interface Exports {
  halveBytes(from: number, width: number, height: number, to: number): void;
  halveLevel(from: number, width: number, height: number, to: number): void;
  survives(
    ...args: [
      from: number,
      width: number,
      height: number,
      level: number,
      smallWidth: number,
      smallHeight: number,
      columns: number,
      allowed: number,
    ]
  ): number;
  range(from: number, count: number, out: number): void;
  isGrey(from: number, count: number): number;
  likeness(from: number, width: number, height: number, side: number, out: number): void;
}

/** Memory that a thread holds on to between pictures; what larger ones need goes with them. */
const HELD = 96 * 2 ** 20;
let held: ReturnType<typeof allocate> | null = null;

function memoryOf(bytes: number): ReturnType<typeof allocate> {
  if (bytes > HELD) return allocate(bytes);
  if (!held || held.byteLength < bytes) held = allocate(bytes);
  return held;
}

/** A picture of bytes in the kernel's memory: what is said of it in one pass each, and the levels below it one after another; see `assembly/picture.ts`. One at a time in a thread. */
export class BytePicture {
  private readonly run: Exports;
  private readonly memory: ReturnType<typeof allocate>;
  private readonly at: { picture: number; columns: number; level: number; next: number };
  /** Sides of the present level; the picture's own before the first. */
  sides: readonly [number, number];
  private first = true;

  /** @param data R G B A, a byte each @throws Error where there is not so much memory */
  constructor(
    private readonly width: number,
    private readonly height: number,
    data: Uint8Array,
  ) {
    const picture = 1024;
    const columns = picture + Math.ceil((data.length + 64) / 64) * 64;
    const level = columns + width * 16 + 64;
    const [w, h] = half([width, height]);
    // A likeness of 128 × 128 has room there as well.
    const next = level + Math.max(w * h * 16, 128 * 128 * 4) + 64;
    const [w2, h2] = half([w, h]);
    this.at = { picture, columns, level, next };
    this.memory = memoryOf(next + w2 * h2 * 16 + 64);
    new Uint8Array(this.memory, picture, data.length).set(data);
    this.run = instantiate<Exports>(code, this.memory);
    this.sides = [width, height];
  }

  /** Least and greatest byte of R, G, B and A. */
  range(): { least: Uint8Array; most: Uint8Array } {
    this.run.range(this.at.picture, this.width * this.height, 0);
    const found = new Uint8Array(this.memory, 0, 8).slice();
    return { least: found.subarray(0, 4), most: found.subarray(4) };
  }

  /** Whether R, G and B agree everywhere. */
  isGrey(): boolean {
    return this.run.isGrey(this.at.picture, this.width * this.height) !== 0;
  }

  /** Means of R, G, B and A over a grid of `side` × `side` cells, a byte each; before the first halving. @param side at most 128 */
  likeness(side: number): Uint8Array {
    this.run.likeness(this.at.picture, this.width, this.height, side, this.at.level);
    return new Uint8Array(this.memory, this.at.level, side * side * 4).slice();
  }

  /** Goes on to the next smaller level: means of 2 × 2 texels. */
  halve(): void {
    const { run, at } = this;
    const [w, h] = this.sides;
    if (this.first) run.halveBytes(at.picture, w, h, at.level);
    else {
      run.halveLevel(at.level, w, h, at.next);
      [at.level, at.next] = [at.next, at.level];
    }
    this.first = false;
    this.sides = half(this.sides);
  }

  /** Whether no block of 32 × 32 loses that or more, a mean of squares, by being stored as the present level. */
  survives(allowed: number): boolean {
    const { run, at, width, height, sides } = this;
    const [w, h] = sides;
    this.locateColumns(w);
    return run.survives(at.picture, width, height, at.level, w, h, at.columns, allowed) !== 0;
  }

  /** Places and weights along X, which are those of every row. */
  private locateColumns(small: number): void {
    const { width } = this;
    const places = new Int32Array(this.memory, this.at.columns, width * 4);
    const shares = new Float64Array(this.memory, this.at.columns, width * 2);
    for (let x = 0; x < width; x++) {
      const sx = (x + 0.5) * (small / width) - 0.5;
      const f = Math.floor(sx);
      places[x * 4] = Math.max(0, f) * 16;
      places[x * 4 + 1] = Math.min(small - 1, f + 1) * 16;
      shares[x * 2 + 1] = Math.fround(sx - f);
    }
  }
}

const half = ([w, h]: readonly [number, number]): [number, number] => [Math.max(1, w >> 1), Math.max(1, h >> 1)];
