import type { RunMask } from './run-mask.ts';

/**
 * Bit rows for true-shape packing: which x positions in a row collide with what is there already.
 *
 * The occupancy is kept as a pyramid: level k, bit x says whether any of the cells x … x + 2^k − 1 is taken. A mask row is a
 * list of runs; a run of length L at offset a collides at x when level floor(log2 L) has bit x + a or bit x + a + L − 2^k.
 * So each run costs two shifted ORs over the row's words, whatever its length.
 */

/** Taken cells of a sheet, with its pyramid. */
export class OccupancyReference {
  readonly words: number;
  private readonly levels: number;
  private readonly bits: Uint32Array[];
  private readonly row: Uint32Array;

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.words = (width + 31) >>> 5;
    this.levels = Math.max(1, Math.floor(Math.log2(width)) + 1);
    this.bits = Array.from({ length: this.levels }, () => new Uint32Array(this.words * height));
    this.row = new Uint32Array(this.words + 1);
  }

  clear(): void {
    for (const level of this.bits) level.fill(0);
  }

  /** Takes the cells of the mask placed at (x, y); cells outside are ignored. */
  add(mask: RunMask, x: number, y: number): void {
    this.change(mask, x, y, true);
  }

  /** Frees the cells of the mask that was added at (x, y). */
  remove(mask: RunMask, x: number, y: number): void {
    this.change(mask, x, y, false);
  }

  private change(mask: RunMask, x: number, y: number, take: boolean): void {
    const { runs } = mask;
    const base = this.bits[0];
    let touched = -1;
    for (let i = 0; i < runs.length; i += 3) {
      const r = y + runs[i];
      if (r < 0 || r >= this.height) continue;
      if (touched >= 0 && touched !== r) this.lift(touched);
      touched = r;
      const s = Math.max(0, x + runs[i + 1]);
      const e = Math.min(this.width, x + runs[i + 1] + runs[i + 2]);
      const o = r * this.words;
      for (let b = s; b < e; ) {
        const w = b >>> 5;
        const lo = b & 31;
        const hi = Math.min(32, lo + (e - b));
        const m = hi - lo === 32 ? 0xffffffff : ((1 << (hi - lo)) - 1) << lo;
        if (take) base[o + w] |= m;
        else base[o + w] &= ~m;
        b += hi - lo;
      }
    }
    if (touched >= 0) this.lift(touched);
  }

  private lift(r: number): void {
    const o = r * this.words;
    for (let k = 1; k < this.levels; k++) {
      const a = this.bits[k - 1];
      const b = this.bits[k];
      const step = 1 << (k - 1);
      const ws = step >>> 5;
      const bs = step & 31;
      for (let w = 0; w < this.words; w++) {
        const lo = w + ws < this.words ? a[o + w + ws] : 0;
        const hi = w + ws + 1 < this.words ? a[o + w + ws + 1] : 0;
        const shifted = bs === 0 ? lo : (lo >>> bs) | (hi << (32 - bs));
        b[o + w] = a[o + w] | shifted;
      }
    }
  }

  /**
   * The least x in minX … maxX at which the mask, with its top at y, meets no taken cell; minX − 1 when there is none.
   * The mask may stick out above, below and on the right, where everything is free; minX must not be negative.
   */
  firstFitWithin(mask: RunMask, y: number, minX: number, maxX: number): number {
    const count = maxX - minX + 1;
    if (count <= 0) return minX - 1;
    const n = (count + 31) >>> 5;
    const row = this.row;
    row.fill(0, 0, n);
    const tail = count & 31;
    if (tail !== 0) row[n - 1] = 0xffffffff << tail;
    const { runs } = mask;
    // Words outside lo … hi are full already.
    let lo = 0;
    let hi = n;
    for (let i = 0; i < runs.length; i += 3) {
      const r = y + runs[i];
      if (r < 0 || r >= this.height) continue;
      const len = runs[i + 2];
      const k = Math.min(this.levels - 1, 31 - Math.clz32(len));
      const level = this.bits[k];
      const o = r * this.words;
      const first = minX + runs[i + 1];
      this.collect(level, o, first, lo, hi);
      const last = first + len - (1 << k);
      // Runs longer than twice the pyramid's top step across the whole sheet.
      for (let a = first + (1 << k); a < last; a += 1 << k) this.collect(level, o, a, lo, hi);
      if (last !== first) this.collect(level, o, last, lo, hi);
      while (lo < hi && row[lo] === 0xffffffff) lo++;
      while (lo < hi && row[hi - 1] === 0xffffffff) hi--;
      if (lo === hi) return minX - 1;
    }
    for (let w = 0; w < n; w++) {
      const free = ~row[w];
      if (free !== 0) return minX + w * 32 + (31 - Math.clz32(free & -free));
    }
    return minX - 1;
  }

  /** ORs the bits from at + 32·lo to at + 32·hi − 1 of a row into words lo … hi − 1 of the work row; outside, bits are 0. */
  private collect(level: Uint32Array, o: number, at: number, lo: number, hi: number): void {
    const row = this.row;
    const words = this.words;
    const s = at >> 5;
    const b = at & 31;
    const end = Math.min(hi, words - s);
    if (b === 0) {
      for (let w = lo; w < end; w++) row[w] |= level[o + w + s];
      return;
    }
    const c = 32 - b;
    let p = o + s + lo;
    let here = s + lo < words ? level[p] : 0;
    const inner = Math.min(end, words - s - 1);
    let w = lo;
    for (; w < inner; w++) {
      const next = level[++p];
      row[w] |= (here >>> b) | (next << c);
      here = next;
    }
    if (w < end) row[w] |= here >>> b;
  }
}
