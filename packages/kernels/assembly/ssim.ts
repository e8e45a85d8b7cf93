// Difference of two pictures; the reference in plain TypeScript is packages/core/src/image/ssim.ts, to the bit: the same operations in the same order in double precision,
// two columns at once.

const RADIUS: i32 = 5;
const TAPS: i32 = 11;

let size: i32 = 0;
let firstAt: usize = 0;
let secondAt: usize = 0;
let coverA: usize = 0;
let coverB: usize = 0;
/** Half of the window, the middle first, and the two constants of the index, f64. */
let constants: usize = 0;

/** @param a, b three bytes a pixel @param ca, cb coverage, a byte a pixel */
export function setUp(side: i32, a: usize, b: usize, ca: usize, cb: usize, numbers: usize): void {
  size = side;
  firstAt = a;
  secondAt = b;
  coverA = ca;
  coverB = cb;
  constants = numbers;
}

/** Over the pixels that either picture covers: sum of the squared differences, their number, and the box around them; into six f64. */
export function squares(out: usize): void {
  let sum: f64 = 0;
  let count = 0;
  let x0 = size;
  let x1 = -1;
  let y0 = size;
  let y1 = -1;
  for (let y = 0, i: usize = 0; y < size; y++) {
    let line: i32 = 0;
    for (let x = 0; x < size; x++, i++) {
      if (!load<u8>(coverA + i) && !load<u8>(coverB + i)) continue;
      count++;
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (y < y0) y0 = y;
      y1 = y;
      const p = i * 3;
      const r = <i32>load<u8>(firstAt + p) - <i32>load<u8>(secondAt + p);
      const g = <i32>load<u8>(firstAt + p, 1) - <i32>load<u8>(secondAt + p, 1);
      const v = <i32>load<u8>(firstAt + p, 2) - <i32>load<u8>(secondAt + p, 2);
      line += r * r + g * g + v * v;
      // A row of more than 8 000 pixels could overflow.
      if (line > 1 << 30) {
        sum += <f64>line;
        line = 0;
      }
    }
    sum += <f64>line;
  }
  store<f64>(out, sum);
  store<f64>(out, <f64>count, 8);
  store<f64>(out, <f64>x0, 16);
  store<f64>(out, <f64>x1, 24);
  store<f64>(out, <f64>y0, 32);
  store<f64>(out, <f64>y1, 40);
}

// @ts-expect-error: decorator
@inline function half(k: usize): v128 {
  return v128.load64_splat(constants + (k << 3));
}

// @ts-expect-error: decorator
@inline function luma(p: usize): f64 {
  return 0.2126 * <f64>load<u8>(p) + 0.7152 * <f64>load<u8>(p, 1) + 0.0722 * <f64>load<u8>(p, 2);
}

function repeatEnds(line: usize, w: i32): void {
  const first = load<f64>(line + (RADIUS << 3));
  const last = load<f64>(line + (<usize>(RADIUS + w - 1) << 3));
  for (let k = 0; k < RADIUS; k++) {
    store<f64>(line + (<usize>k << 3), first);
    store<f64>(line + (<usize>(RADIUS + w + k) << 3), last);
  }
}

/** One row that a window of 11 slides over. */
function blurRow(p: usize, out: usize, w: i32): void {
  const k0 = half(0);
  const k1 = half(1);
  const k2 = half(2);
  const k3 = half(3);
  const k4 = half(4);
  const k5 = half(5);
  for (let x = 0; x < w; x += 2, p += 16, out += 16) {
    let sum = f64x2.mul(k0, v128.load(p, 40));
    sum = f64x2.add(sum, f64x2.mul(k1, f64x2.add(v128.load(p, 32), v128.load(p, 48))));
    sum = f64x2.add(sum, f64x2.mul(k2, f64x2.add(v128.load(p, 24), v128.load(p, 56))));
    sum = f64x2.add(sum, f64x2.mul(k3, f64x2.add(v128.load(p, 16), v128.load(p, 64))));
    sum = f64x2.add(sum, f64x2.mul(k4, f64x2.add(v128.load(p, 8), v128.load(p, 72))));
    sum = f64x2.add(sum, f64x2.mul(k5, f64x2.add(v128.load(p), v128.load(p, 80))));
    v128.store(out, sum);
  }
}

/** The same down a column, of eleven rows whose places stand in `pick`. */
// @ts-expect-error: decorator
@inline function column(pick: usize, rows: usize, x: usize): v128 {
  const at = rows + x;
  let sum = f64x2.mul(half(0), v128.load(at + load<u32>(pick, 20)));
  sum = f64x2.add(sum, f64x2.mul(half(1), f64x2.add(v128.load(at + load<u32>(pick, 16)), v128.load(at + load<u32>(pick, 24)))));
  sum = f64x2.add(sum, f64x2.mul(half(2), f64x2.add(v128.load(at + load<u32>(pick, 12)), v128.load(at + load<u32>(pick, 28)))));
  sum = f64x2.add(sum, f64x2.mul(half(3), f64x2.add(v128.load(at + load<u32>(pick, 8)), v128.load(at + load<u32>(pick, 32)))));
  sum = f64x2.add(sum, f64x2.mul(half(4), f64x2.add(v128.load(at + load<u32>(pick, 4)), v128.load(at + load<u32>(pick, 36)))));
  return f64x2.add(sum, f64x2.mul(half(5), f64x2.add(v128.load(at + load<u32>(pick)), v128.load(at + load<u32>(pick, 40)))));
}

/**
 * Mean SSIM over luma of the covered pixels of a window, as `ssimInside`.
 * @param work room for the rows: 4 · 12 · (w + 16) f64 and 11 u32 @returns 1 where nothing is covered
 */
export function ssim(x0: i32, y0: i32, x1: i32, y1: i32, work: usize): f64 {
  const w = x1 - x0 + 1;
  const h = y1 - y0 + 1;
  const stride = (<usize>w + 16) << 3;
  const pick = work;
  const pa = work + 64;
  const pb = pa + stride;
  const psq = pb + stride;
  const pab = psq + stride;
  const ra = pab + stride;
  const rb = ra + <usize>TAPS * stride;
  const rs = rb + <usize>TAPS * stride;
  const rp = rs + <usize>TAPS * stride;
  const c1 = v128.load64_splat(constants + 48);
  const c2 = v128.load64_splat(constants + 56);
  const two = f64x2.splat(2);
  let sum: f64 = 0;
  let n = 0;
  let loaded = 0;
  for (let y = 0; y < h; y++) {
    while (loaded < h && loaded <= y + RADIUS) {
      let i = <usize>(((loaded + y0) * size + x0) * 3);
      for (let x: usize = 0; x < <usize>w; x++, i += 3) {
        const va = luma(firstAt + i);
        const vb = luma(secondAt + i);
        const o = (x + RADIUS) << 3;
        store<f64>(pa + o, va);
        store<f64>(pb + o, vb);
        store<f64>(psq + o, va * va + vb * vb);
        store<f64>(pab + o, va * vb);
      }
      repeatEnds(pa, w);
      repeatEnds(pb, w);
      repeatEnds(psq, w);
      repeatEnds(pab, w);
      const at = <usize>(loaded % TAPS) * stride;
      blurRow(pa, ra + at, w);
      blurRow(pb, rb + at, w);
      blurRow(psq, rs + at, w);
      blurRow(pab, rp + at, w);
      loaded++;
    }
    for (let k = 0; k < TAPS; k++)
      store<u32>(pick + (<usize>k << 2), <u32>(<usize>(max(0, min(h - 1, y + k - RADIUS)) % TAPS) * stride));
    let i = <usize>((y + y0) * size + x0);
    for (let x = 0; x < w; x += 2, i += 2) {
      const first = load<u8>(coverA + i) | load<u8>(coverB + i);
      const second = x + 1 < w && load<u8>(coverA + i, 1) | load<u8>(coverB + i, 1);
      if (!first && !second) continue;
      const o = <usize>x << 3;
      const ma = column(pick, ra, o);
      const mb = column(pick, rb, o);
      const aa = f64x2.mul(ma, ma);
      const bb = f64x2.mul(mb, mb);
      const squares = f64x2.sub(f64x2.sub(column(pick, rs, o), aa), bb);
      const product = f64x2.sub(column(pick, rp, o), f64x2.mul(ma, mb));
      const upper = f64x2.mul(
        f64x2.add(f64x2.mul(f64x2.mul(two, ma), mb), c1),
        f64x2.add(f64x2.mul(two, product), c2),
      );
      const lower = f64x2.mul(f64x2.add(f64x2.add(aa, bb), c1), f64x2.add(squares, c2));
      const index = f64x2.div(upper, lower);
      if (first) {
        sum += f64x2.extract_lane(index, 0);
        n++;
      }
      if (second) {
        sum += f64x2.extract_lane(index, 1);
        n++;
      }
    }
  }
  return n == 0 ? 1 : sum / <f64>n;
}
