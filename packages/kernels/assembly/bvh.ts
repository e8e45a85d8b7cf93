// shared
// Builds an eight-wide bounding volume hierarchy over triangles in linear memory; its layout is given in src/bvh-layout.ts, its reference in plain TypeScript is
// src/bvh-reference.ts. Binned surface area heuristic (Wald 2007) over three axes at once, counting blocks of four triangles, so that leaves are full
// (Ernst and Woop 2011); a wide node splits the largest of its children until there are eight.

const NODE: usize = 256;
const BLOCK: usize = 160;
const REF: usize = 32;
const BIN: usize = 48;
const MAX_BINS: i32 = 32;
// A child while its node is built: bounds, bounds of doubled centres, range of references.
const CHILD: usize = 80;
const EMPTY: v128 = f32x4.splat(Infinity);
const NOTHING: v128 = f32x4.splat(-Infinity);

let positions: usize = 0;
let indices: usize = 0;
let refs: usize = 0;
let nodes: usize = 0;
let blocks: usize = 0;
let blockLimit: i32 = 0;
let blockCount: i32 = 0;
let leafSize: i32 = 8;
let bins: usize = 0;

/** Bytes of scratch that `build` needs. */
export function scratchBytes(): i32 {
  return <i32>(BIN * 3 * MAX_BINS + CHILD * 8 + 16 * MAX_BINS + (CHILD + 16) * 2048);
}

export function blocksUsed(): i32 {
  return blockCount;
}

// @ts-expect-error: decorator
@inline function halfArea(lo: v128, hi: v128): f32 {
  const d = f32x4.sub(hi, lo);
  const x = f32x4.extract_lane(d, 0);
  const y = f32x4.extract_lane(d, 1);
  const z = f32x4.extract_lane(d, 2);
  return x * y + y * z + z * x;
}

// @ts-expect-error: decorator
@inline function blocksOf(n: i32): f32 {
  return <f32>((n + 3) >> 2);
}

/** Whole parts of numbers from 0 to 2^22, by the rounding of an addition: conversions that truncate are slow. */
// @ts-expect-error: decorator
@inline function binsOf(x: v128): v128 {
  const r = f32x4.add(f32x4.sub(x, f32x4.splat(0.5)), f32x4.splat(12582912));
  return i32x4.sub(r, i32x4.splat(0x4b400000));
}

// @ts-expect-error: decorator
@inline function corner(t: i32, k: i32): usize {
  return positions + <usize>load<u32>(indices + (<usize>(t * 3 + k) << 2)) * 12;
}

// @ts-expect-error: decorator
@inline function point(p: usize): v128 {
  // Three floats; the fourth lane is the next vertex's x, or beyond the last, and never used.
  return v128.load(p);
}

/** @returns the number of nodes, or −1 when there are more blocks than `limit` */
export function build(
  count: i32,
  positionsAt: usize,
  indicesAt: usize,
  refsAt: usize,
  nodesAt: usize,
  blocksAt: usize,
  limit: i32,
  scratch: usize,
  leaf: i32,
): i32 {
  positions = positionsAt;
  indices = indicesAt;
  refs = refsAt;
  nodes = nodesAt;
  blocks = blocksAt;
  blockLimit = limit;
  blockCount = 0;
  leafSize = leaf;
  bins = scratch;
  const children = bins + BIN * 3 * MAX_BINS;
  const right = children + CHILD * 8;
  const stack = right + 16 * MAX_BINS;
  let lo = EMPTY;
  let hi = NOTHING;
  let cLo = EMPTY;
  let cHi = NOTHING;
  for (let t = 0; t < count; t++) {
    const a = point(corner(t, 0));
    const b = point(corner(t, 1));
    const c = point(corner(t, 2));
    const l = f32x4.replace_lane(f32x4.pmin(f32x4.pmin(a, b), c), 3, 0);
    const h = f32x4.replace_lane(f32x4.pmax(f32x4.pmax(a, b), c), 3, 0);
    const centre = f32x4.add(l, h);
    lo = f32x4.pmin(lo, l);
    hi = f32x4.pmax(hi, h);
    cLo = f32x4.pmin(cLo, centre);
    cHi = f32x4.pmax(cHi, centre);
    const r = refs + <usize>t * REF;
    v128.store(r, i32x4.replace_lane(l, 3, t));
    v128.store(r, h, 16);
  }
  let nodeCount = 1;
  let top = stack;
  v128.store(top, lo);
  v128.store(top, hi, 16);
  v128.store(top, cLo, 32);
  v128.store(top, cHi, 48);
  store<i32>(top, 0, 64);
  store<i32>(top, count, 68);
  store<i32>(top, 0, 80);
  top += CHILD + 16;
  while (top > stack) {
    top -= CHILD + 16;
    memory.copy(children, top, CHILD);
    store<f32>(children, halfArea(v128.load(children), v128.load(children, 16)), 72);
    const node = nodes + <usize>load<i32>(top, 80) * NODE;
    let n = 1;
    while (n < 8) {
      let best: usize = 0;
      let area: f32 = -1;
      for (let i = 0; i < n; i++) {
        const c = children + <usize>i * CHILD;
        const size = load<i32>(c, 68) - load<i32>(c, 64);
        if (size > 4 && load<f32>(c, 72) > area) {
          area = load<f32>(c, 72);
          best = c;
        }
      }
      if (!best) break;
      split(best, children + <usize>n * CHILD, right);
      n++;
    }
    for (let i = 0; i < 8; i++) {
      const lane = node + (<usize>i << 2);
      if (i >= n) {
        for (let k: usize = 0; k < 6; k++) store<f32>(lane + k * 32, Infinity);
        store<i32>(lane, 0, 192);
        continue;
      }
      const c = children + <usize>i * CHILD;
      // A little larger than what is inside: rays that lie in a face of the box must not miss it.
      for (let k: usize = 0; k < 3; k++) {
        const low = load<f32>(c + (k << 2));
        const high = load<f32>(c + (k << 2), 16);
        store<f32>(lane + k * 64, low - (abs<f32>(low) * 2.384185791015625e-7 + 1e-9));
        store<f32>(lane + k * 64, high + (abs<f32>(high) * 2.384185791015625e-7 + 1e-9), 32);
      }
      const begin = load<i32>(c, 64);
      const end = load<i32>(c, 68);
      if (end - begin <= leafSize) {
        const first = blockCount;
        if (!leafOf(begin, end)) return -1;
        store<i32>(lane, <i32>0x80000000 | (first << 3) | (blockCount - first - 1), 192);
        continue;
      }
      store<i32>(lane, nodeCount, 192);
      memory.copy(top, c, CHILD);
      store<i32>(top, nodeCount, 80);
      top += CHILD + 16;
      nodeCount++;
    }
  }
  return nodeCount;
}

function leafOf(begin: i32, end: i32): bool {
  for (let i = begin; i < end; i += 4) {
    if (blockCount >= blockLimit) return false;
    const b = blocks + <usize>blockCount * BLOCK;
    for (let k = 0; k < 4; k++) {
      // Free lanes hold the last triangle again.
      const r = refs + <usize>min(i + k, end - 1) * REF;
      const t = load<i32>(r, 12);
      const lane = b + (<usize>k << 2);
      for (let v = 0; v < 3; v++) {
        const p = corner(t, v);
        const o = lane + <usize>v * 48;
        store<f32>(o, load<f32>(p));
        store<f32>(o, load<f32>(p, 4), 16);
        store<f32>(o, load<f32>(p, 8), 32);
      }
      store<i32>(lane, t, 144);
    }
    blockCount++;
  }
  return true;
}

/** Parts a child in two; the left stays in its place, the right goes to `b`. */
function split(a: usize, b: usize, right: usize): void {
  const begin = load<i32>(a, 64);
  const end = load<i32>(a, 68);
  const size = end - begin;
  const cLo = v128.load(a, 32);
  const extent = f32x4.sub(v128.load(a, 48), cLo);
  const count = min(MAX_BINS, 4 + (size >> 3));
  // 0 where all centres lie in one plane; a hair less than the count, so that the last centre falls into the last bin.
  const scale = v128.bitselect(
    f32x4.div(f32x4.splat(<f32>count * <f32>0.99999), extent),
    f32x4.splat(0),
    f32x4.gt(extent, f32x4.splat(1e-30)),
  );
  const last = i32x4.splat(count - 1);
  const binsY = bins + BIN * MAX_BINS;
  const binsZ = binsY + BIN * MAX_BINS;
  clear(bins, count);
  clear(binsY, count);
  clear(binsZ, count);
  const stop = refs + <usize>end * REF;
  for (let r = refs + <usize>begin * REF; r < stop; r += REF) {
    const lo = v128.load(r);
    const hi = v128.load(r, 16);
    const k = i32x4.min_s(binsOf(f32x4.mul(f32x4.sub(f32x4.add(lo, hi), cLo), scale)), last);
    put(bins + <usize>i32x4.extract_lane(k, 0) * BIN, lo, hi);
    put(binsY + <usize>i32x4.extract_lane(k, 1) * BIN, lo, hi);
    put(binsZ + <usize>i32x4.extract_lane(k, 2) * BIN, lo, hi);
  }
  let bestCost: f32 = Infinity;
  let bestAxis = -1;
  let bestAt = 0;
  for (let axis = 0; axis < 3; axis++) {
    const base = bins + <usize>axis * BIN * MAX_BINS;
    let lo = EMPTY;
    let hi = NOTHING;
    let n = 0;
    for (let i = count - 1; i > 0; i--) {
      const o = base + <usize>i * BIN;
      lo = f32x4.pmin(lo, v128.load(o));
      hi = f32x4.pmax(hi, v128.load(o, 16));
      n += load<i32>(o, 32);
      store<f32>(right + (<usize>i << 4), n ? halfArea(lo, hi) * blocksOf(n) : 0);
      store<i32>(right + (<usize>i << 4), n, 4);
    }
    lo = EMPTY;
    hi = NOTHING;
    n = 0;
    for (let i = 1; i < count; i++) {
      const o = base + <usize>(i - 1) * BIN;
      lo = f32x4.pmin(lo, v128.load(o));
      hi = f32x4.pmax(hi, v128.load(o, 16));
      n += load<i32>(o, 32);
      if (n == 0 || load<i32>(right + (<usize>i << 4), 4) == 0) continue;
      const cost = halfArea(lo, hi) * blocksOf(n) + load<f32>(right + (<usize>i << 4));
      if (cost < bestCost) {
        bestCost = cost;
        bestAxis = axis;
        bestAt = i;
      }
    }
  }
  let l = refs + <usize>begin * REF;
  let leftLo = EMPTY;
  let leftHi = NOTHING;
  let rightLo = EMPTY;
  let rightHi = NOTHING;
  let leftCLo = EMPTY;
  let leftCHi = NOTHING;
  let rightCLo = EMPTY;
  let rightCHi = NOTHING;
  if (bestAxis < 0) {
    // All centres are in one place: halves, as they come.
    const middle = begin + (size >> 1);
    for (let i = begin; i < end; i++, l += REF) {
      const lo = v128.load(l);
      const hi = v128.load(l, 16);
      const c = f32x4.add(lo, hi);
      if (i < middle) {
        leftLo = f32x4.pmin(leftLo, lo);
        leftHi = f32x4.pmax(leftHi, hi);
        leftCLo = f32x4.pmin(leftCLo, c);
        leftCHi = f32x4.pmax(leftCHi, c);
      } else {
        rightLo = f32x4.pmin(rightLo, lo);
        rightHi = f32x4.pmax(rightHi, hi);
        rightCLo = f32x4.pmin(rightCLo, c);
        rightCHi = f32x4.pmax(rightCHi, c);
      }
    }
    l = refs + <usize>middle * REF;
  } else {
    const first = bestAxis == 0 ? 0 : bestAxis == 1 ? 4 : 8;
    const base = load<f32>(a + first, 32);
    v128.store(right, scale);
    const by = load<f32>(right + first);
    const lastBin = count - 1;
    let r = refs + <usize>end * REF;
    while (l < r) {
      const lo = v128.load(l);
      const hi = v128.load(l, 16);
      const x = (load<f32>(l + first) + load<f32>(l + first, 16) - base) * by;
      const c = f32x4.add(lo, hi);
      if (min(i32x4.extract_lane(binsOf(f32x4.splat(x)), 0), lastBin) < bestAt) {
        leftLo = f32x4.pmin(leftLo, lo);
        leftHi = f32x4.pmax(leftHi, hi);
        leftCLo = f32x4.pmin(leftCLo, c);
        leftCHi = f32x4.pmax(leftCHi, c);
        l += REF;
      } else {
        rightLo = f32x4.pmin(rightLo, lo);
        rightHi = f32x4.pmax(rightHi, hi);
        rightCLo = f32x4.pmin(rightCLo, c);
        rightCHi = f32x4.pmax(rightCHi, c);
        r -= REF;
        v128.store(l, v128.load(r));
        v128.store(l, v128.load(r, 16), 16);
        v128.store(r, lo);
        v128.store(r, hi, 16);
      }
    }
  }
  const middle = <i32>((l - refs) / REF);
  keep(a, leftLo, leftHi, leftCLo, leftCHi, begin, middle);
  keep(b, rightLo, rightHi, rightCLo, rightCHi, middle, end);
}

// @ts-expect-error: decorator
@inline function clear(o: usize, count: i32): void {
  for (const stop = o + <usize>count * BIN; o < stop; o += BIN) {
    v128.store(o, EMPTY);
    v128.store(o, NOTHING, 16);
    store<i32>(o, 0, 32);
  }
}

// @ts-expect-error: decorator
@inline function put(o: usize, lo: v128, hi: v128): void {
  v128.store(o, f32x4.pmin(v128.load(o), lo));
  v128.store(o, f32x4.pmax(v128.load(o, 16), hi), 16);
  store<i32>(o, load<i32>(o, 32) + 1, 32);
}

// @ts-expect-error: decorator
@inline function keep(o: usize, lo: v128, hi: v128, cLo: v128, cHi: v128, begin: i32, end: i32): void {
  v128.store(o, lo);
  v128.store(o, hi, 16);
  v128.store(o, cLo, 32);
  v128.store(o, cHi, 48);
  store<i32>(o, begin, 64);
  store<i32>(o, end, 68);
  store<f32>(o, halfArea(lo, hi), 72);
}
