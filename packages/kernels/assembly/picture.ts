// What a picture of bytes shows at smaller sizes; the reference in plain TypeScript is packages/core/src/image/useful-size.ts, to the bit: the same operations in the same
// order in double precision, two channels at once.

const BLOCK: i32 = 32;

// @ts-expect-error: decorator
@inline function texel(p: usize): v128 {
  return i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(p)));
}

// @ts-expect-error: decorator
@inline function low(p: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(p));
}

// @ts-expect-error: decorator
@inline function high(p: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(p, 8));
}

/** Means of 2 × 2 texels of bytes, as f32; at sides of 1 the same texel twice. */
export function halveBytes(from: usize, width: i32, height: i32, to: usize): void {
  const w = max(1, width >> 1);
  const h = max(1, height >> 1);
  const right: usize = width > 1 ? 4 : 0;
  const below: usize = height > 1 ? <usize>width << 2 : 0;
  const quarter = f32x4.splat(0.25);
  for (let y = 0; y < h; y++) {
    let p = from + (<usize>((height > 1 ? y * 2 : 0) * width) << 2);
    for (let x = 0; x < w; x++, p += right * 2, to += 16) {
      const sum = i32x4.add(
        i32x4.add(texel(p), texel(p + right)),
        i32x4.add(texel(p + below), texel(p + right + below)),
      );
      v128.store(to, f32x4.mul(f32x4.convert_i32x4_s(sum), quarter));
    }
  }
}

/** The same of f32. */
export function halveLevel(from: usize, width: i32, height: i32, to: usize): void {
  const w = max(1, width >> 1);
  const h = max(1, height >> 1);
  const right: usize = width > 1 ? 16 : 0;
  const below: usize = height > 1 ? <usize>width << 4 : 0;
  const quarter = f64x2.splat(0.25);
  for (let y = 0; y < h; y++) {
    let p = from + (<usize>((height > 1 ? y * 2 : 0) * width) << 4);
    for (let x = 0; x < w; x++, p += right * 2, to += 16) {
      const a = f64x2.add(f64x2.add(f64x2.add(low(p), low(p + right)), low(p + below)), low(p + right + below));
      const b = f64x2.add(f64x2.add(f64x2.add(high(p), high(p + right)), high(p + below)), high(p + right + below));
      const rg = f32x4.demote_f64x2_zero(f64x2.mul(a, quarter));
      const ba = f32x4.demote_f64x2_zero(f64x2.mul(b, quarter));
      v128.store(to, i64x2.replace_lane(rg, 1, i64x2.extract_lane(ba, 0)));
    }
  }
}

/**
 * Whether no block of a picture of bytes loses `allowed` (a mean of squares) or more by being stored as a smaller level, read bilinearly.
 * @param columns of each column of the picture: where its two texels begin in a row of the level, bytes, and the share of the second; 16 bytes each (i32, i32, f64)
 */
export function survives(from: usize, width: i32, height: i32, level: usize, smallWidth: i32, smallHeight: i32, columns: usize, allowed: f64): bool {
  const ky = <f64>smallHeight / <f64>height;
  for (let by = 0; by < height; by += BLOCK)
    for (let bx = 0; bx < width; bx += BLOCK) {
      const endX = min(width, bx + BLOCK);
      const endY = min(height, by + BLOCK);
      let sumRG = f64x2.splat(0);
      let sumBA = f64x2.splat(0);
      for (let y = by; y < endY; y++) {
        const sy = (<f64>y + 0.5) * ky - 0.5;
        const f = floor(sy);
        const r0 = level + (<usize>(max(0, <i32>f) * smallWidth) << 4);
        const r1 = level + (<usize>(min(smallHeight - 1, <i32>f + 1) * smallWidth) << 4);
        const wy = f64x2.splat(sy - f);
        let p = from + (<usize>(y * width + bx) << 2);
        let c = columns + (<usize>bx << 4);
        for (let x = bx; x < endX; x++, p += 4, c += 16) {
          const x0 = <usize>load<i32>(c);
          const x1 = <usize>load<i32>(c, 4);
          const wx = v128.load64_splat(c, 8);
          const d = texel(p);
          const a0 = low(r0 + x0);
          const t0 = f64x2.add(a0, f64x2.mul(f64x2.sub(low(r0 + x1), a0), wx));
          const p0 = low(r1 + x0);
          const b0 = f64x2.add(p0, f64x2.mul(f64x2.sub(low(r1 + x1), p0), wx));
          const e0 = f64x2.sub(f64x2.convert_low_i32x4_s(d), f64x2.add(t0, f64x2.mul(f64x2.sub(b0, t0), wy)));
          sumRG = f64x2.add(sumRG, f64x2.mul(e0, e0));
          const a1 = high(r0 + x0);
          const t1 = f64x2.add(a1, f64x2.mul(f64x2.sub(high(r0 + x1), a1), wx));
          const p1 = high(r1 + x0);
          const b1 = f64x2.add(p1, f64x2.mul(f64x2.sub(high(r1 + x1), p1), wx));
          const blueAlpha = f64x2.convert_low_i32x4_s(i64x2.splat(i64x2.extract_lane(d, 1)));
          const e1 = f64x2.sub(blueAlpha, f64x2.add(t1, f64x2.mul(f64x2.sub(b1, t1), wy)));
          sumBA = f64x2.add(sumBA, f64x2.mul(e1, e1));
        }
      }
      const n = <f64>((endX - bx) * (endY - by));
      const most = f64x2.max(sumRG, sumBA);
      if (max(f64x2.extract_lane(most, 0), f64x2.extract_lane(most, 1)) / n >= allowed) return false;
    }
  return true;
}

/** Least and greatest byte of each channel, into eight bytes. @param count texels */
export function range(from: usize, count: i32, out: usize): void {
  let least = i8x16.splat(-1);
  let most = i8x16.splat(0);
  const whole = count & ~3;
  for (let i = 0; i < whole; i += 4, from += 16) {
    const v = v128.load(from);
    least = i8x16.min_u(least, v);
    most = i8x16.max_u(most, v);
  }
  for (let i = whole; i < count; i++, from += 4) {
    const v = v128.load32_splat(from);
    least = i8x16.min_u(least, v);
    most = i8x16.max_u(most, v);
  }
  least = i8x16.min_u(least, i8x16.shuffle(least, least, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  least = i8x16.min_u(least, i8x16.shuffle(least, least, 4, 5, 6, 7, 0, 1, 2, 3, 4, 5, 6, 7, 0, 1, 2, 3));
  most = i8x16.max_u(most, i8x16.shuffle(most, most, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  most = i8x16.max_u(most, i8x16.shuffle(most, most, 4, 5, 6, 7, 0, 1, 2, 3, 4, 5, 6, 7, 0, 1, 2, 3));
  store<u32>(out, i32x4.extract_lane(least, 0));
  store<u32>(out, i32x4.extract_lane(most, 0), 4);
}

/** Whether R, G and B agree in every texel. */
export function isGrey(from: usize, count: i32): bool {
  const whole = count & ~3;
  for (let i = 0; i < whole; i += 4, from += 16) {
    const v = v128.load(from);
    const red = i8x16.shuffle(v, v, 0, 0, 0, 3, 4, 4, 4, 7, 8, 8, 8, 11, 12, 12, 12, 15);
    if (!i8x16.all_true(i8x16.eq(v, red))) return false;
  }
  for (let i = whole; i < count; i++, from += 4) {
    const r = load<u8>(from);
    if (r != load<u8>(from, 1) || r != load<u8>(from, 2)) return false;
  }
  return true;
}

/** Means of R, G, B and A over a grid of `side` × `side` cells, a byte each; large cells are read at every few texels. */
export function likeness(from: usize, width: i32, height: i32, side: i32, out: usize): void {
  for (let cy = 0; cy < side; cy++)
    for (let cx = 0; cx < side; cx++, out += 4) {
      const x0 = <i32>((<i64>cx * width) / side);
      const x1 = max(x0 + 1, <i32>((<i64>(cx + 1) * width) / side));
      const y0 = <i32>((<i64>cy * height) / side);
      const y1 = max(y0 + 1, <i32>((<i64>(cy + 1) * height) / side));
      const step = max(1, (x1 - x0) >> 4);
      let sum = i32x4.splat(0);
      let n = 0;
      for (let y = y0; y < y1; y += step) {
        let x = x0;
        if (step == 1)
          for (; x + 4 <= x1; x += 4, n += 4) {
            const v = v128.load(from + (<usize>(y * width + x) << 2));
            const pairs = i16x8.add(i16x8.extend_low_i8x16_u(v), i16x8.extend_high_i8x16_u(v));
            sum = i32x4.add(sum, i32x4.add(i32x4.extend_low_i16x8_u(pairs), i32x4.extend_high_i16x8_u(pairs)));
          }
        for (; x < x1; x += step) {
          sum = i32x4.add(sum, texel(from + (<usize>(y * width + x) << 2)));
          n++;
        }
      }
      store<u8>(out, <u8>floor(<f64>i32x4.extract_lane(sum, 0) / <f64>n + 0.5));
      store<u8>(out, <u8>floor(<f64>i32x4.extract_lane(sum, 1) / <f64>n + 0.5), 1);
      store<u8>(out, <u8>floor(<f64>i32x4.extract_lane(sum, 2) / <f64>n + 0.5), 2);
      store<u8>(out, <u8>floor(<f64>i32x4.extract_lane(sum, 3) / <f64>n + 0.5), 3);
    }
}
