// Bit rows for packing: the loops of src/bitmap.ts over linear memory, 128 places at a time. A grid is a pyramid of levels; a row of it is `stride`
// words of 64 bits, the last four of them empty, so that reading beyond its end finds nothing. Beside the grid of cells stands one of blocks of
// 4 × 4 that are wholly taken: a mask that has a cell at a multiple of four in both directions meets such a block wherever in its own block it starts.

let gridAt: usize = 0;
let width: i32 = 0;
let height: i32 = 0;
let stride: i32 = 0;
let levels: i32 = 0;
let blocksAt: usize = 0;
let blockRows: i32 = 0;
let blockStride: i32 = 0;
let blockLevels: i32 = 0;
/** Blocks of a row at which a mask meets a full one, and the mask's runs among blocks. */
let rowAt: usize = 0;
let blockRunsAt: usize = 0;

export function setUp(
  grid: usize,
  w: i32,
  h: i32,
  words: i32,
  top: i32,
  blocks: usize,
  blockWords: i32,
  blockTop: i32,
  row: usize,
  blockRuns: usize,
): void {
  gridAt = grid;
  width = w;
  height = h;
  stride = words;
  levels = top;
  blocksAt = blocks;
  blockRows = (h + 3) >> 2;
  blockStride = blockWords;
  blockLevels = blockTop;
  rowAt = row;
  blockRunsAt = blockRuns;
}

export function clear(): void {
  memory.fill(gridAt, 0, <usize>(levels * height * stride) << 3);
  memory.fill(blocksAt, 0, <usize>(blockLevels * blockRows * blockStride) << 3);
}

// @ts-expect-error: decorator
@inline function rowOf(level: i32, y: i32): usize {
  return gridAt + (<usize>((level * height + y) * stride) << 3);
}

/** The bits lo … hi − 1 of a word. */
// @ts-expect-error: decorator
@inline function wordBits(lo: i32, hi: i32): u64 {
  return hi - lo == 64 ? ~(<u64>0) : (((<u64>1) << <u64>(hi - lo)) - 1) << <u64>lo;
}

/** Takes the cells of a mask, `count` runs of (row, start, length), placed at (x, y); cells outside are ignored. */
export function add(runs: usize, count: i32, x: i32, y: i32): void {
  change(runs, count, x, y, true);
}

/** Frees the cells of a mask that was added there. */
export function remove(runs: usize, count: i32, x: i32, y: i32): void {
  change(runs, count, x, y, false);
}

function change(runs: usize, count: i32, x: i32, y: i32, take: bool): void {
  let touched = -1;
  let top = i32.MAX_VALUE;
  let bottom = -1;
  // Cells changed in the row that is touched, and in all.
  let from = i32.MAX_VALUE;
  let to = 0;
  let left = i32.MAX_VALUE;
  let right = 0;
  for (let i = 0; i < count; i++) {
    const at = runs + <usize>(i * 12);
    const r = y + load<i32>(at);
    const s = max(0, x + load<i32>(at, 4));
    const e = min(width, x + load<i32>(at, 4) + load<i32>(at, 8));
    if (r < 0 || r >= height || s >= e) continue;
    if (touched >= 0 && touched != r) {
      lift(rowOf(0, touched), levels, height, stride, from, to);
      from = i32.MAX_VALUE;
      to = 0;
    }
    touched = r;
    top = min(top, r);
    bottom = max(bottom, r);
    from = min(from, s);
    to = max(to, e);
    left = min(left, s);
    right = max(right, e);
    const row = rowOf(0, r);
    for (let b = s; b < e; ) {
      const lo = b & 63;
      const hi = min(64, lo + (e - b));
      const p = row + (<usize>(b >> 6) << 3);
      const cells = wordBits(lo, hi);
      store<u64>(p, take ? load<u64>(p) | cells : load<u64>(p) & ~cells);
      b += hi - lo;
    }
  }
  if (touched < 0) return;
  lift(rowOf(0, touched), levels, height, stride, from, to);
  for (let r = top >> 2; r <= bottom >> 2; r++) fill(r, left, right);
}

/** How many cells of a mask placed at (x, y) are taken; those above the grid, left of `left` and from `right` on count as taken. */
export function taken(runs: usize, count: i32, x: i32, y: i32, left: i32, right: i32): i32 {
  let sum = 0;
  for (let i = 0; i < count; i++) {
    const at = runs + <usize>(i * 12);
    const r = y + load<i32>(at);
    if (r >= height) continue;
    const start = x + load<i32>(at, 4);
    const length = load<i32>(at, 8);
    const s = max(start, left);
    const e = min(start + length, right);
    if (r < 0 || s >= e) {
      sum += length;
      continue;
    }
    sum += length - (e - s);
    const row = rowOf(0, r);
    for (let b = s; b < e; ) {
      const lo = b & 63;
      const hi = min(64, lo + (e - b));
      sum += <i32>popcnt(load<u64>(row + (<usize>(b >> 6) << 3)) & wordBits(lo, hi));
      b += hi - lo;
    }
  }
  return sum;
}

/** Makes the levels above a row of the lowest, in which the bits from … to − 1 have changed. */
function lift(lowest: usize, levels: i32, height: i32, stride: i32, from: i32, to: i32): void {
  const words = stride - 4;
  const last = (to - 1) >> 6;
  let a = lowest;
  for (let k = 1; k < levels; k++) {
    const b = a + (<usize>(height * stride) << 3);
    const step = 1 << (k - 1);
    const ws = step >> 6;
    const bs = step & 63;
    // A bit of this level stands for those up to twice the step to its right.
    let w = max(0, from - 2 * step + 1) >> 6;
    // Two words at a time; beyond the row's end there are empty ones. Where the step leads out of the row nothing is added.
    const inner = min(last, words - 1 - ws);
    for (; w <= inner; w += 2) {
      const p = a + (<usize>(w + ws) << 3);
      const lo = v128.load(p);
      const shifted = bs == 0 ? lo : v128.or(i64x2.shr_u(lo, bs), i64x2.shl(v128.load(p, 8), 64 - bs));
      v128.store(b + (<usize>w << 3), v128.or(v128.load(a + (<usize>w << 3)), shifted));
    }
    for (; w <= last; w += 2) v128.store(b + (<usize>w << 3), v128.load(a + (<usize>w << 3)));
    a = b;
  }
}

/** Marks the full blocks of a row of blocks, where the cells left … right − 1 have changed. One that reaches over the lower or right edge never is. */
function fill(r: i32, left: i32, right: i32): void {
  if (r * 4 + 4 > height) return;
  const rows = rowOf(0, r * 4);
  const next = <usize>stride << 3;
  const out = blocksAt + (<usize>(r * blockStride) << 3);
  for (let w = left >> 6; w <= (right - 1) >> 6; w++) {
    const p = rows + (<usize>w << 3);
    let t = load<u64>(p) & load<u64>(p + next) & load<u64>(p + 2 * next) & load<u64>(p + 3 * next);
    t &= t >> 1;
    t &= t >> 2;
    t &= 0x1111111111111111;
    t = (t | (t >> 3)) & 0x0303030303030303;
    t = (t | (t >> 6)) & 0x000f000f000f000f;
    t = (t | (t >> 12)) & 0x000000ff000000ff;
    store<u16>(out + (<usize>w << 1), <u16>(t | (t >> 24)));
  }
  lift(out, blockLevels, blockRows, blockStride, left >> 2, ((right - 1) >> 2) + 1);
}

/** Bits at … at + 127 of a row; outside, they are 0. */
// @ts-expect-error: decorator
@inline function bits(level: usize, at: i32, stride: i32): v128 {
  const s = at >> 6;
  if (s >= stride - 4) return i64x2.splat(0);
  const b = at & 63;
  const p = level + (<usize>s << 3);
  const here = v128.load(p);
  if (b == 0) return here;
  return v128.or(i64x2.shr_u(here, b), i64x2.shl(v128.load(p, 8), 64 - b));
}

/** All of 128 bits but the first so many. */
// @ts-expect-error: decorator
@inline function beyond(count: i32): v128 {
  if (count >= 128) return i64x2.splat(0);
  const low: u64 = count < 64 ? ~(<u64>0) << <u64>count : 0;
  const high: u64 = count <= 64 ? ~(<u64>0) : ~(<u64>0) << <u64>(count - 64);
  return i64x2.replace_lane(i64x2.splat(low), 1, high);
}

/** Of the places x … x + 127, those that are ruled out already or at which a mask with its top at y meets a taken cell, as far as it takes. */
// @ts-expect-error: decorator
@inline function meets(
  out: v128,
  grid: usize,
  height: i32,
  stride: i32,
  levels: i32,
  runs: usize,
  end: usize,
  x: i32,
  y: i32,
): v128 {
  const top = levels - 1;
  let met = out;
  for (let at = runs; at < end; at += 12) {
    const r = y + load<i32>(at);
    if (<u32>r >= <u32>height) continue;
    const length = load<i32>(at, 8);
    const k = min(top, 31 - clz(length));
    const level = grid + (<usize>((k * height + r) * stride) << 3);
    const first = x + load<i32>(at, 4);
    met = v128.or(met, bits(level, first, stride));
    const last = first + length - (1 << k);
    // Runs longer than twice the pyramid's top step across the whole sheet.
    for (let a = first + (1 << k); a < last; a += 1 << k) met = v128.or(met, bits(level, a, stride));
    if (last != first) met = v128.or(met, bits(level, last, stride));
    if (!v128.any_true(v128.not(met))) break;
  }
  return met;
}

/** The first of 128 places that is not taken; 128 when all are. */
// @ts-expect-error: decorator
@inline function firstFree(taken: v128): i32 {
  const low = ~i64x2.extract_lane(taken, 0);
  if (low != 0) return <i32>ctz(low);
  const high = ~i64x2.extract_lane(taken, 1);
  return high != 0 ? 64 + <i32>ctz(high) : 128;
}

/** The least x in minX … maxX at which the mask with its top at y meets no taken cell; minX − 1 when there is none. */
export function firstFitWithin(runs: usize, count: i32, y: i32, minX: i32, maxX: i32): i32 {
  const end = runs + <usize>(count * 12);
  // From the left: a few runs rule all of 128 places out where little is free, and none to the right of a free one is looked at.
  for (let x = minX; x <= maxX; x += 128) {
    const taken = meets(beyond(maxX - x + 1), gridAt, height, stride, levels, runs, end, x, y);
    const free = firstFree(taken);
    if (free < 128) return x + free;
  }
  return minX - 1;
}

/** The runs of a mask among blocks. @returns where they end */
function blockRuns(runs: usize, end: usize): usize {
  let blockEnd = blockRunsAt;
  for (let at = runs; at < end; at += 12) {
    const r = load<i32>(at);
    if (r & 3) continue;
    const first = (load<i32>(at, 4) + 3) >> 2;
    const last = (load<i32>(at, 4) + load<i32>(at, 8) - 1) >> 2;
    if (last < first) continue;
    store<i32>(blockEnd, r >> 2);
    store<i32>(blockEnd, first, 4);
    store<i32>(blockEnd, last - first + 1, 8);
    blockEnd += 12;
  }
  return blockEnd;
}

/** Marks at which of the blocks from … to of a row of them a mask meets a full one. @returns whether any is left */
// @ts-expect-error: decorator
@inline function blocksLeave(blockEnd: usize, from: i32, to: i32, row: i32): bool {
  let some = false;
  for (let x = from, q = rowAt; x <= to; x += 128, q += 16) {
    const taken = meets(beyond(to - x + 1), blocksAt, blockRows, blockStride, blockLevels, blockRunsAt, blockEnd, x, row);
    v128.store(q, taken);
    if (v128.any_true(v128.not(taken))) some = true;
  }
  return some;
}

/** The first row from y ≥ 0 to lastY with such a place, in row y itself from `startX` on: x + 65536 · row; −1 when there is none. */
export function firstRow(runs: usize, count: i32, y: i32, lastY: i32, minX: i32, maxX: i32, startX: i32): i32 {
  const end = runs + <usize>(count * 12);
  const blockEnd = blockRuns(runs, end);
  const from = minX & ~3;
  let row = y;
  while (row <= lastY) {
    const next = (row | 3) + 1;
    // Where it meets a full block it is in the way from all four rows and columns of the block where it starts.
    if (!blocksLeave(blockEnd, from >> 2, maxX >> 2, row >> 2)) {
      row = next;
      continue;
    }
    for (; row < next && row <= lastY; row++) {
      const least = row == y ? startX : minX;
      for (let x = from, q = rowAt; x <= maxX; x += 128, q += 4) {
        if (x + 128 <= least) continue;
        const blocks = load<u32>(q);
        if (blocks == ~(<u32>0)) continue;
        let out = v128.or(beyond(maxX - x + 1), i64x2.replace_lane(i64x2.splat(spread(blocks & 65535)), 1, spread(blocks >> 16)));
        if (x < least) out = v128.or(out, v128.not(beyond(least - x)));
        const free = firstFree(meets(out, gridAt, height, stride, levels, runs, end, x, row));
        if (free < 128) return (row << 16) | (x + free);
      }
    }
  }
  return -1;
}

/**
 * Of the rows y ≥ 0 … lastY and the columns minX … maxX the place with the least 1024 · row + tilt · x from least to most, as `firstRow` gives it;
 * the uppermost of several. `tilt` is at least 1.
 */
export function firstAlong(
  runs: usize,
  count: i32,
  y: i32,
  lastY: i32,
  minX: i32,
  maxX: i32,
  tilt: i32,
  least: i32,
  most: i32,
): i32 {
  const end = runs + <usize>(count * 12);
  const blockEnd = blockRuns(runs, end);
  let found = -1;
  let bound = most;
  for (let row = y; row <= lastY; ) {
    const next = min((row | 3) + 1, lastY + 1);
    const left = max(minX, (least - ((next - 1) << 10) + tilt - 1) / tilt);
    const room = bound - (row << 10);
    // What lies further down is not better, however far to the left.
    if (room < tilt * minX) break;
    const right = min(maxX, room / tilt);
    const from = left & ~3;
    if (!blocksLeave(blockEnd, from >> 2, right >> 2, row >> 2)) {
      row = next;
      continue;
    }
    for (; row < next; row++) {
      const rest = bound - (row << 10);
      if (rest < tilt * minX) return found;
      const last = min(right, rest / tilt);
      const first = max(minX, (least - (row << 10) + tilt - 1) / tilt);
      for (let x = from, q = rowAt; x <= last; x += 128, q += 4) {
        const blocks = load<u32>(q);
        if (blocks == ~(<u32>0)) continue;
        let out = v128.or(beyond(last - x + 1), i64x2.replace_lane(i64x2.splat(spread(blocks & 65535)), 1, spread(blocks >> 16)));
        if (x < first) out = v128.or(out, v128.not(beyond(first - x)));
        const free = firstFree(meets(out, gridAt, height, stride, levels, runs, end, x, row));
        if (free == 128) continue;
        found = (row << 16) | (x + free);
        bound = (row << 10) + tilt * (x + free) - 1;
        if (bound < least) return found;
        break;
      }
    }
  }
  return found;
}

/** Each of 16 bits four times. */
// @ts-expect-error: decorator
@inline function spread(bits: u32): u64 {
  let t = <u64>bits;
  t = (t | (t << 24)) & 0x000000ff000000ff;
  t = (t | (t << 12)) & 0x000f000f000f000f;
  t = (t | (t << 6)) & 0x0303030303030303;
  t = (t | (t << 3)) & 0x1111111111111111;
  return t * 15;
}
