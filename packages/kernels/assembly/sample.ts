// shared
// Reads textures at many places at a time; the reference in plain TypeScript is `sampleLevels` in src/sample.ts, to the bit: the same operations in the same order in double
// precision, two channels at once.

const MIRROR: i32 = 33648;
const REPEAT: i32 = 10497;

// A whole number as i32, by the rounding of an addition: conversions that saturate are slow.
const WHOLE: f64 = 6755399441055744;

// @ts-expect-error: decorator
@inline function whole(x: f64): i32 {
  return <i32>reinterpret<i64>(x + WHOLE);
}

// @ts-expect-error: decorator
@inline function wrapped(i: i32, n: i32, mode: i32, mask: i32): i32 {
  return mask >= 0 ? i & mask : <u32>i < <u32>n ? i : outside(i, n, mode);
}

/** What a repeating coordinate is masked with; −1 where that does not do. Sides are powers of two nearly always, and a remainder takes long. */
function maskOf(n: i32, mode: i32): i32 {
  return mode == REPEAT && (n & (n - 1)) == 0 ? n - 1 : -1;
}

function outside(i: i32, n: i32, mode: i32): i32 {
  if (mode == REPEAT) {
    const r = i % n;
    return r < 0 ? r + n : r;
  }
  if (mode == MIRROR) {
    const p = 2 * n;
    let r = i % p;
    if (r < 0) r += p;
    return r < n ? r : p - 1 - r;
  }
  return i < 0 ? 0 : n - 1;
}

// @ts-expect-error: decorator
@inline function low(texel: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(texel));
}

// @ts-expect-error: decorator
@inline function high(texel: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(texel, 8));
}

/**
 * @param uv u v of each place, f64, 1 being the whole texture @param out R G B A of each, f64
 * @param first, second the two levels that are blended, f32 R G B A a texel, with their sides; `second` 0: the first alone
 * @param blend share of the second @param nearest 1: the nearest texel, unblended @param weighted 1: colour counts by its alpha
 */
export function sample(
  count: i32,
  uv: usize,
  out: usize,
  first: usize,
  width: i32,
  height: i32,
  second: usize,
  width2: i32,
  height2: i32,
  blend: f64,
  wrapS: i32,
  wrapT: i32,
  nearest: i32,
  weighted: i32,
): void {
  const maskS = maskOf(width, wrapS);
  const maskT = maskOf(height, wrapT);
  const maskS2 = maskOf(width2, wrapS);
  const maskT2 = maskOf(height2, wrapT);
  for (let i = 0; i < count; i++, uv += 16, out += 32) {
    const u = load<f64>(uv);
    const v = load<f64>(uv, 8);
    let rg = f64x2.splat(0);
    let ba = f64x2.splat(0);
    let plainRG = f64x2.splat(0);
    let plainB = f64x2.splat(0);
    let base = first;
    let w = width;
    let h = height;
    let mx = maskS;
    let my = maskT;
    let weight: f64 = second ? 1 - blend : 1;
    while (true) {
      if (nearest) {
        const y = wrapped(whole(floor(v * <f64>h)), h, wrapT, my);
        const x = wrapped(whole(floor(u * <f64>w)), w, wrapS, mx);
        const t = base + (<usize>(y * w + x) << 4);
        if (weighted) {
          const d = high(t);
          const wa = f64x2.splat(weight * f64x2.extract_lane(d, 1));
          rg = f64x2.add(rg, f64x2.mul(wa, low(t)));
          ba = f64x2.add(ba, f64x2.mul(wa, f64x2.replace_lane(d, 1, 1)));
          plainRG = f64x2.add(plainRG, f64x2.mul(f64x2.splat(weight), low(t)));
          plainB = f64x2.add(plainB, f64x2.mul(f64x2.splat(weight), d));
        } else {
          rg = f64x2.add(rg, f64x2.mul(f64x2.splat(weight), low(t)));
          ba = f64x2.add(ba, f64x2.mul(f64x2.splat(weight), high(t)));
        }
      } else {
        const x = u * <f64>w - 0.5;
        const y = v * <f64>h - 0.5;
        const fx = floor(x);
        const fy = floor(y);
        const ax = x - fx;
        const ay = y - fy;
        const xi = whole(fx);
        const yi = whole(fy);
        const x0 = <usize>wrapped(xi, w, wrapS, mx) << 4;
        const x1 = <usize>wrapped(xi + 1, w, wrapS, mx) << 4;
        const r0 = base + (<usize>(wrapped(yi, h, wrapT, my) * w) << 4);
        const r1 = base + (<usize>(wrapped(yi + 1, h, wrapT, my) * w) << 4);
        const a = r0 + x0;
        const b = r0 + x1;
        const c = r1 + x0;
        const d = r1 + x1;
        const w00 = weight * (1 - ax) * (1 - ay);
        const w10 = weight * ax * (1 - ay);
        const w01 = weight * (1 - ax) * ay;
        const w11 = weight * ax * ay;
        if (weighted) {
          for (let k = 0; k < 4; k++) {
            const t = k == 0 ? a : k == 1 ? b : k == 2 ? c : d;
            const wt = k == 0 ? w00 : k == 1 ? w10 : k == 2 ? w01 : w11;
            const hi = high(t);
            const lo = low(t);
            const wa = f64x2.splat(wt * f64x2.extract_lane(hi, 1));
            rg = f64x2.add(rg, f64x2.mul(wa, lo));
            ba = f64x2.add(ba, f64x2.mul(wa, f64x2.replace_lane(hi, 1, 1)));
            plainRG = f64x2.add(plainRG, f64x2.mul(f64x2.splat(wt), lo));
            plainB = f64x2.add(plainB, f64x2.mul(f64x2.splat(wt), hi));
          }
        } else {
          const s00 = f64x2.splat(w00);
          const s10 = f64x2.splat(w10);
          const s01 = f64x2.splat(w01);
          const s11 = f64x2.splat(w11);
          rg = f64x2.add(
            rg,
            f64x2.add(
              f64x2.add(f64x2.add(f64x2.mul(s00, low(a)), f64x2.mul(s10, low(b))), f64x2.mul(s01, low(c))),
              f64x2.mul(s11, low(d)),
            ),
          );
          ba = f64x2.add(
            ba,
            f64x2.add(
              f64x2.add(f64x2.add(f64x2.mul(s00, high(a)), f64x2.mul(s10, high(b))), f64x2.mul(s01, high(c))),
              f64x2.mul(s11, high(d)),
            ),
          );
        }
      }
      if (!second || base == second) break;
      base = second;
      w = width2;
      h = height2;
      mx = maskS2;
      my = maskT2;
      weight = blend;
    }
    if (weighted) {
      const alpha = f64x2.extract_lane(ba, 1);
      if (alpha > 1e-9) {
        rg = f64x2.div(rg, f64x2.splat(alpha));
        ba = f64x2.div(ba, f64x2.replace_lane(f64x2.splat(alpha), 1, 1));
      } else {
        rg = plainRG;
        ba = f64x2.replace_lane(plainB, 1, alpha);
      }
    }
    v128.store(out, rg);
    v128.store(out, ba, 16);
  }
}

/**
 * Sums of n × n samples of texels that lie whole on one triangle, where u = u0 + ux · x + uy · y and v alike, x and y in texels.
 * @param corners x y of each texel's corner, f64 @param out sum of R G B A of each, f64 @param work room for n × n coordinates and values, f64
 */
export function sums(
  count: i32,
  corners: usize,
  out: usize,
  work: usize,
  n: i32,
  u0: f64,
  ux: f64,
  uy: f64,
  v0: f64,
  vx: f64,
  vy: f64,
  first: usize,
  width: i32,
  height: i32,
  second: usize,
  width2: i32,
  height2: i32,
  blend: f64,
  wrapS: i32,
  wrapT: i32,
  nearest: i32,
  weighted: i32,
): void {
  const per = n * n;
  const values = work + (<usize>per << 4);
  const stop = values + (<usize>per << 5);
  for (let i = 0; i < count; i++, corners += 16, out += 32) {
    const x = load<f64>(corners);
    const y = load<f64>(corners, 8);
    let p = work;
    for (let j = 0; j < n; j++) {
      const sy = y + (<f64>j + 0.5) / <f64>n;
      for (let k = 0; k < n; k++, p += 16) {
        const sx = x + (<f64>k + 0.5) / <f64>n;
        store<f64>(p, u0 + ux * sx + uy * sy);
        store<f64>(p, v0 + vx * sx + vy * sy, 8);
      }
    }
    sample(per, work, values, first, width, height, second, width2, height2, blend, wrapS, wrapT, nearest, weighted);
    let rg = f64x2.splat(0);
    let ba = f64x2.splat(0);
    for (let q = values; q < stop; q += 32) {
      rg = f64x2.add(rg, v128.load(q));
      ba = f64x2.add(ba, v128.load(q, 16));
    }
    v128.store(out, rg);
    v128.store(out, ba, 16);
  }
}
