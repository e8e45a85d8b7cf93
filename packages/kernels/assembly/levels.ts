// shared
// Fills level sets from pictures of bytes; the references in plain TypeScript are `toLevels` (packages/core/src/image/levels.ts) and `halve` (src/sample.ts), to the bit.

const SRGB: i32 = 0;
const NORMAL: i32 = 1;

// @ts-expect-error: decorator
@inline function byte(p: usize, k: usize): f64 {
  return <f64>load<u8>(p + k);
}

/**
 * Level 0 of a texture. Texels are read from the first on, so that they may lie behind the level in the same memory.
 * @param from R G B A, bytes @param to R G B A, f32 @param encoding 0: sRGB by `table` (256 f32), alpha by its share; 1: vectors −1 … 1, alpha 1; 2: shares
 */
export function convert(from: usize, count: i32, to: usize, encoding: i32, table: usize): void {
  const unit: f64 = 1.0 / 255;
  for (let i = 0; i < count; i++, from += 4, to += 16) {
    if (encoding == SRGB) {
      store<f32>(to, load<f32>(table + (<usize>load<u8>(from) << 2)));
      store<f32>(to, load<f32>(table + (<usize>load<u8>(from, 1) << 2)), 4);
      store<f32>(to, load<f32>(table + (<usize>load<u8>(from, 2) << 2)), 8);
      store<f32>(to, <f32>(byte(from, 3) * unit), 12);
    } else if (encoding == NORMAL) {
      store<f32>(to, <f32>(byte(from, 0) * unit * 2 - 1));
      store<f32>(to, <f32>(byte(from, 1) * unit * 2 - 1), 4);
      store<f32>(to, <f32>(byte(from, 2) * unit * 2 - 1), 8);
      store<f32>(to, 1, 12);
    } else {
      store<f32>(to, <f32>(byte(from, 0) * unit));
      store<f32>(to, <f32>(byte(from, 1) * unit), 4);
      store<f32>(to, <f32>(byte(from, 2) * unit), 8);
      store<f32>(to, <f32>(byte(from, 3) * unit), 12);
    }
  }
}

// @ts-expect-error: decorator
@inline function low(p: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(p));
}

// @ts-expect-error: decorator
@inline function high(p: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(p, 8));
}

// @ts-expect-error: decorator
@inline function put(to: usize, rg: v128, ba: v128): void {
  const first = f32x4.demote_f64x2_zero(rg);
  v128.store(to, i64x2.replace_lane(first, 1, i64x2.extract_lane(f32x4.demote_f64x2_zero(ba), 0)));
}

/** A level of half the sides, from one of `width` texels a row. @param weighted 1: colour counts by its alpha */
export function halve(from: usize, width: i32, to: usize, w: i32, h: i32, weighted: i32): void {
  const row = <usize>width << 4;
  const four = f64x2.splat(4);
  for (let y = 0; y < h; y++) {
    let a = from + <usize>(y * 2) * row;
    for (let x = 0; x < w; x++, a += 32, to += 16) {
      const b = a + 16;
      const c = a + row;
      const d = c + 16;
      const ha = high(a);
      const hb = high(b);
      const hc = high(c);
      const hd = high(d);
      const sum = f64x2.add(f64x2.add(f64x2.add(ha, hb), hc), hd);
      const alpha = f64x2.extract_lane(sum, 1);
      if (!weighted || alpha <= 1e-9) {
        const rg = f64x2.add(f64x2.add(f64x2.add(low(a), low(b)), low(c)), low(d));
        put(to, f64x2.div(rg, four), f64x2.div(sum, four));
        continue;
      }
      const wa = f64x2.splat(f64x2.extract_lane(ha, 1));
      const wb = f64x2.splat(f64x2.extract_lane(hb, 1));
      const wc = f64x2.splat(f64x2.extract_lane(hc, 1));
      const wd = f64x2.splat(f64x2.extract_lane(hd, 1));
      const rg = f64x2.add(
        f64x2.add(f64x2.add(f64x2.mul(wa, low(a)), f64x2.mul(wb, low(b))), f64x2.mul(wc, low(c))),
        f64x2.mul(wd, low(d)),
      );
      const ba = f64x2.add(
        f64x2.add(f64x2.add(f64x2.mul(wa, ha), f64x2.mul(wb, hb)), f64x2.mul(wc, hc)),
        f64x2.mul(wd, hd),
      );
      const by = f64x2.splat(alpha);
      put(to, f64x2.div(rg, by), f64x2.replace_lane(f64x2.div(ba, by), 1, alpha / 4));
    }
  }
}
