import code from './generated/ssim.ts';
import { allocate, instantiate, memoryPlan } from './wasm.ts';

interface Exports {
  setUp(size: number, a: number, b: number, coverA: number, coverB: number, numbers: number): void;
  squares(out: number): void;
  ssim(x0: number, y0: number, x1: number, y1: number, work: number): number;
}

/** A square picture, three bytes a pixel, and how far each pixel is covered. */
export interface CoveredPicture {
  pixels: Uint8Array;
  coverage: Uint8Array;
}

/** Over the pixels that one of two pictures covers. */
export interface Squares {
  /** Of all differences of bytes. */
  sum: number;
  count: number;
  /** Around them, both ends inside, px. */
  box: { x0: number; y0: number; x1: number; y1: number };
}

/** Memory and loops that compare pictures up to a side; what is done stands in `assembly/ssim.ts`. */
export class DifferenceKernel {
  private readonly run: Exports;
  private readonly bytes: Uint8Array;
  private readonly numbers: Float64Array;
  private readonly at: {
    a: number;
    b: number;
    coverA: number;
    coverB: number;
    numbers: number;
    out: number;
    work: number;
  };

  /**
   * @param size greatest side, px @param constants half of the window of the SSIM with its middle first (six numbers), and its two constants
   * @throws Error where there is not so much memory
   */
  constructor(
    readonly size: number,
    constants: readonly number[],
  ) {
    const { room, end } = memoryPlan();
    const pixels = size * size;
    this.at = {
      numbers: room(64),
      out: room(64),
      a: room(pixels * 3),
      b: room(pixels * 3),
      coverA: room(pixels),
      coverB: room(pixels),
      work: room(64 + 4 * 12 * (size + 16) * 8),
    };
    const memory = allocate(end());
    this.bytes = new Uint8Array(memory);
    this.numbers = new Float64Array(memory, this.at.out, 6);
    new Float64Array(memory, this.at.numbers, 8).set(constants);
    this.run = instantiate<Exports>(code, memory);
  }

  /** Takes two pictures to compare. @param size their side, px */
  load(a: CoveredPicture, b: CoveredPicture, size: number): void {
    const { at, bytes } = this;
    bytes.set(a.pixels, at.a);
    bytes.set(b.pixels, at.b);
    bytes.set(a.coverage, at.coverA);
    bytes.set(b.coverage, at.coverB);
    this.run.setUp(size, at.a, at.b, at.coverA, at.coverB, at.numbers);
  }

  squares(): Squares {
    this.run.squares(this.at.out);
    const [sum, count, x0, x1, y0, y1] = this.numbers;
    return { sum, count, box: { x0, y0, x1, y1 } };
  }

  /** Mean SSIM over luma of the covered pixels in a box. */
  ssim({ x0, y0, x1, y1 }: Squares['box']): number {
    return this.run.ssim(x0, y0, x1, y1, this.at.work);
  }
}
