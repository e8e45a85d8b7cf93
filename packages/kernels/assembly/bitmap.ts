// Bit rows for packing: the loops of src/bitmap.ts over linear memory, 128 places at a time. A row of the pyramid is `stride` words of 64 bits,
// the last four of them empty, so that reading beyond its end finds nothing.

let gridAt: usize = 0;
let rowAt: usize = 0;
let width: i32 = 0;
let height: i32 = 0;
let stride: i32 = 0;
let levels: i32 = 0;

export function setUp(grid: usize, row: usize, w: i32, h: i32, words: i32, top: i32): void {
  gridAt = grid;
  rowAt = row;
  width = w;
  height = h;
  stride = words;
  levels = top;
}

export function clear(): void {
  memory.fill(gridAt, 0, <usize>(levels * height * stride) << 3);
}

// @ts-expect-error: decorator
@inline function rowOf(level: i32, y: i32): usize {
  return gridAt + (<usize>((level * height + y) * stride) << 3);
}

/** Takes the cells of a mask, `count` runs of (row, start, length), placed at (x, y); cells outside are ignored. */
export function add(runs: usize, count: i32, x: i32, y: i32): void {
  let touched = -1;
  for (let i = 0; i < count; i++) {
    const at = runs + <usize>(i * 12);
    const r = y + load<i32>(at);
    if (r < 0 || r >= height) continue;
    if (touched >= 0 && touched != r) lift(touched);
    touched = r;
    const s = max(0, x + load<i32>(at, 4));
    const e = min(width, x + load<i32>(at, 4) + load<i32>(at, 8));
    const o = rowOf(0, r);
    for (let b = s; b < e; ) {
      const lo = b & 63;
      const hi = min(64, lo + (e - b));
      const m: u64 = hi - lo == 64 ? ~(<u64>0) : (((<u64>1) << <u64>(hi - lo)) - 1) << <u64>lo;
      const p = o + (<usize>(b >> 6) << 3);
      store<u64>(p, load<u64>(p) | m);
      b += hi - lo;
    }
  }
  if (touched >= 0) lift(touched);
}

function lift(r: i32): void {
  const words = stride - 4;
  for (let k = 1; k < levels; k++) {
    const a = rowOf(k - 1, r);
    const b = rowOf(k, r);
    const step = 1 << (k - 1);
    const ws = step >> 6;
    const bs = <u64>(step & 63);
    for (let w = 0; w < words; w++) {
      const lo = w + ws < words ? load<u64>(a + (<usize>(w + ws) << 3)) : 0;
      const hi = w + ws + 1 < words ? load<u64>(a + (<usize>(w + ws + 1) << 3)) : 0;
      const shifted = bs == 0 ? lo : (lo >> bs) | (hi << (64 - bs));
      store<u64>(b + (<usize>w << 3), load<u64>(a + (<usize>w << 3)) | shifted);
    }
  }
}

/** The least x in minX … maxX at which the mask with its top at y meets no taken cell; minX − 1 when there is none. */
export function firstFitWithin(runs: usize, count: i32, y: i32, minX: i32, maxX: i32): i32 {
  const places = maxX - minX + 1;
  if (places <= 0) return minX - 1;
  const n = (places + 63) >> 6;
  memory.fill(rowAt, 0, <usize>n << 3);
  const tail = places & 63;
  if (tail != 0) store<u64>(rowAt + (<usize>(n - 1) << 3), ~(<u64>0) << <u64>tail);
  let lo = 0;
  let hi = n;
  for (let i = 0; i < count; i++) {
    const at = runs + <usize>(i * 12);
    const r = y + load<i32>(at);
    if (r < 0 || r >= height) continue;
    const length = load<i32>(at, 8);
    const k = min(levels - 1, 31 - clz(length));
    const level = rowOf(k, r);
    const first = minX + load<i32>(at, 4);
    collect(level, first, lo, hi);
    const last = first + length - (1 << k);
    for (let a = first + (1 << k); a < last; a += 1 << k) collect(level, a, lo, hi);
    if (last != first) collect(level, last, lo, hi);
    while (lo < hi && load<u64>(rowAt + (<usize>lo << 3)) == ~(<u64>0)) lo++;
    while (lo < hi && load<u64>(rowAt + (<usize>(hi - 1) << 3)) == ~(<u64>0)) hi--;
    if (lo == hi) return minX - 1;
  }
  for (let w = lo; w < hi; w++) {
    const free = ~load<u64>(rowAt + (<usize>w << 3));
    if (free != 0) return minX + w * 64 + <i32>ctz(free);
  }
  return minX - 1;
}

/** The first row from y to lastY, in steps, with such a place: x + 65536 · row; −1 when there is none. */
export function firstRow(runs: usize, count: i32, y: i32, lastY: i32, step: i32, minX: i32, maxX: i32): i32 {
  for (let r = y; r <= lastY; r += step) {
    const x = firstFitWithin(runs, count, r, minX, maxX);
    if (x >= minX) return (r << 16) | x;
  }
  return -1;
}

/** ORs the bits from at + 64·lo to at + 64·hi − 1 of a row into words lo … hi − 1 of the work row; outside, bits are 0. */
// @ts-expect-error: decorator
@inline function collect(level: usize, at: i32, lo: i32, hi: i32): void {
  const words = stride - 4;
  const s = at >> 6;
  const b = at & 63;
  const end = min(hi, words - s);
  let p = level + (<usize>(s + lo) << 3);
  let q = rowAt + (<usize>lo << 3);
  let w = lo;
  if (b == 0) {
    for (; w < end; w++) {
      store<u64>(q, load<u64>(q) | load<u64>(p));
      p += 8;
      q += 8;
    }
    return;
  }
  const c = 64 - b;
  for (; w + 1 < end; w += 2) {
    const here = i64x2.shr_u(v128.load(p), b);
    const next = i64x2.shl(v128.load(p, 8), c);
    v128.store(q, v128.or(v128.load(q), v128.or(here, next)));
    p += 16;
    q += 16;
  }
  if (w < end) store<u64>(q, load<u64>(q) | (load<u64>(p) >> <u64>b) | (load<u64>(p, 8) << <u64>c));
}
