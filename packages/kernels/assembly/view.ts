// Draws bands of a picture for the comparison; the reference in plain TypeScript is packages/core/src/compare (`Band`, `PointShader`, `PixelResolver`), to the bit:
// the same operations in the same order in double precision. A band is 32 rows of pixels with 4 × 4 samples each.

const GRID: i32 = 4;
const ALL: i32 = 16;
const LAST_ROW: f64 = 127;
/** Bytes of a record: see `RECORD` in src/view-kernel.ts. */
const RECORD: usize = 336;
const NORMALS: usize = 72;
const TANGENTS: usize = 108;
const COLOURS: usize = 156;
const UVS: usize = 204;
const BACK: usize = 324;
/** Numbers of a shaded point: unlit and lit colour, alpha. */
const SHADED: usize = 56;

let size: i32 = 0;
let y0: f64 = 0;
let firstColumn: i32 = 0;
let columns: i32 = 0;
let depthAt: usize = 0;
let hitAt: usize = 0;

/** Begins a band. @param side of the picture, px @param top first row @param from, to columns that something may show in */
export function begin(side: i32, top: i32, from: i32, to: i32, depth: usize, hits: usize): void {
  size = side;
  y0 = <f64>top;
  firstColumn = from;
  columns = to - from + 1;
  depthAt = depth;
  hitAt = hits;
}

let ax: f64 = 0;
let ay: f64 = 0;
let bx: f64 = 0;
let by: f64 = 0;
let cx: f64 = 0;
let cy: f64 = 0;
let inv: f64 = 0;
let bStep: f64 = 0;
let cStep: f64 = 0;
let first: f64 = 0;
let last: f64 = 0;
let left: f64 = 0;
let right: f64 = 0;

/** `SampleRows.open`. @param s x y nearness of three corners */
function open(s: usize): bool {
  ax = load<f64>(s) * 4 - 0.5;
  ay = (load<f64>(s, 8) - y0) * 4 - 0.5;
  bx = load<f64>(s, 24) * 4 - 0.5;
  by = (load<f64>(s, 32) - y0) * 4 - 0.5;
  cx = load<f64>(s, 48) * 4 - 0.5;
  cy = (load<f64>(s, 56) - y0) * 4 - 0.5;
  const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
  if (det == 0) return false;
  inv = 1 / det;
  bStep = (cy - ay) * inv;
  cStep = -(by - ay) * inv;
  first = max<f64>(0, ceil(min(min(ay, by), cy)));
  last = min(LAST_ROW, floor(max(max(ay, by), cy)));
  left = max<f64>(0, ceil(min(min(ax, bx), cx)));
  right = min(<f64>(size * GRID - 1), floor(max(max(ax, bx), cx)));
  return true;
}

let b0: f64 = 0;
let c0: f64 = 0;
let lo: f64 = 0;
let hi: f64 = 0;

// @ts-expect-error: decorator
@inline function narrow(v: f64, step: f64): void {
  if (step > 0) lo = max(lo, floor(-v / step) - 1);
  else if (step < 0) hi = min(hi, ceil(-v / step) + 1);
  else if (v < 0) hi = -1;
}

/** `SampleRows.row`. */
function row(y: f64): void {
  b0 = (-ax * (cy - ay) - (cx - ax) * (y - ay)) * inv;
  c0 = ((bx - ax) * (y - ay) + ax * (by - ay)) * inv;
  lo = left;
  hi = right;
  narrow(1 - b0 - c0, -bStep - cStep);
  narrow(b0, bStep);
  narrow(c0, cStep);
}

/** Lays opaque triangles over the samples where they are nearest. @param screen nine numbers each @param ids what a sample keeps of each */
export function cover(screen: usize, ids: usize, count: i32): void {
  const w = size * GRID;
  for (let k = 0; k < count; k++, screen += 72, ids += 4) {
    if (!open(screen)) continue;
    const id = load<i32>(ids);
    const za = f64x2.splat(load<f64>(screen, 16));
    const zb = f64x2.splat(load<f64>(screen, 40));
    const zc = f64x2.splat(load<f64>(screen, 64));
    const stepB = f64x2.splat(bStep);
    const stepC = f64x2.splat(cStep);
    const one = f64x2.splat(1);
    const zero = f64x2.splat(0);
    const end = <i32>last;
    for (let y = <i32>first; y <= end; y++) {
      row(<f64>y);
      if (!(lo <= hi)) continue;
      const startB = f64x2.splat(b0);
      const startC = f64x2.splat(c0);
      const to = <i32>hi;
      let x = <i32>lo;
      let at = y * w + x;
      let depth = depthAt + (<usize>at << 3);
      let hits = hitAt + (<usize>at << 2);
      let xs = f64x2.replace_lane(f64x2.splat(<f64>x), 1, <f64>(x + 1));
      const two = f64x2.splat(2);
      for (; x <= to; x += 2, depth += 16, hits += 8) {
        const b = f64x2.add(startB, f64x2.mul(xs, stepB));
        const c = f64x2.add(startC, f64x2.mul(xs, stepC));
        const a = f64x2.sub(f64x2.sub(one, b), c);
        xs = f64x2.add(xs, two);
        const inside = v128.and(v128.and(f64x2.ge(a, zero), f64x2.ge(b, zero)), f64x2.ge(c, zero));
        if (!v128.any_true(inside)) continue;
        const z = f64x2.add(f64x2.add(f64x2.mul(a, za), f64x2.mul(b, zb)), f64x2.mul(c, zc));
        const was = v128.load(depth);
        const nearer = i64x2.bitmask(v128.and(inside, f64x2.gt(z, was)));
        if (nearer & 1) {
          store<f64>(depth, f64x2.extract_lane(z, 0));
          store<i32>(hits, id);
        }
        if (nearer & 2 && x < to) {
          store<f64>(depth, f64x2.extract_lane(z, 1), 8);
          store<i32>(hits, id, 4);
        }
      }
    }
  }
}

/**
 * What an alpha-blended triangle shows in each pixel, where it is not hidden.
 * @param sums room for 32 bytes a pixel of the band, all 0 @param touched room for a number a pixel @param out as many records of 40 bytes: pixel, samples, and sums of nearness, x and y
 * @returns how many there are
 */
export function layer(screen: usize, sums: usize, touched: usize, out: usize): i32 {
  if (!open(screen)) return 0;
  const w = size * GRID;
  const za = load<f64>(screen, 16);
  const zb = load<f64>(screen, 40);
  const zc = load<f64>(screen, 64);
  let count = 0;
  const end = <i32>last;
  for (let y = <i32>first; y <= end; y++) {
    row(<f64>y);
    if (!(lo <= hi)) continue;
    const to = <i32>hi;
    for (let x = <i32>lo; x <= to; x++) {
      const b = b0 + <f64>x * bStep;
      const c = c0 + <f64>x * cStep;
      const a = 1 - b - c;
      if (!(a >= 0 && b >= 0 && c >= 0)) continue;
      const z = a * za + b * zb + c * zc;
      if (z <= load<f64>(depthAt + (<usize>(y * w + x) << 3))) continue;
      const pixel = (y >> 2) * size + (x >> 2);
      const p = sums + (<usize>pixel << 5);
      const n = load<f64>(p);
      if (n == 0) {
        store<i32>(touched + (<usize>count << 2), pixel);
        count++;
      }
      store<f64>(p, n + 1);
      store<f64>(p, load<f64>(p, 8) + z, 8);
      store<f64>(p, load<f64>(p, 16) + (<f64>x + 0.5) / 4, 16);
      store<f64>(p, load<f64>(p, 24) + ((<f64>y + 0.5) / 4 + y0), 24);
    }
  }
  for (let i = 0; i < count; i++, out += 40) {
    const pixel = load<i32>(touched + (<usize>i << 2));
    const p = sums + (<usize>pixel << 5);
    store<f64>(out, <f64>pixel);
    for (let k: usize = 0; k < 32; k += 8) {
      store<f64>(out + 8 + k, load<f64>(p + k));
      store<f64>(p + k, 0);
    }
  }
  return count;
}

/** Points that are shaded: triangle, samples, place (px), and what `shade` makes of them. */
let idAt: usize = 0;
let samplesAt: usize = 0;
let placeAt: usize = 0;
let shadedAt: usize = 0;
let capacity: i32 = 0;

export function points(ids: usize, samples: usize, places: usize, shaded: usize, most: i32): void {
  idAt = ids;
  samplesAt = samples;
  placeAt = places;
  shadedAt = shaded;
  capacity = most;
}

let pointCount: i32 = 0;

// @ts-expect-error: decorator
@inline function addPoint(id: i32, samples: f64, x: f64, y: f64): void {
  const i = <usize>pointCount;
  pointCount++;
  store<i32>(idAt + (i << 2), id);
  store<i32>(samplesAt + (i << 2), <i32>samples);
  const p = placeAt + (i << 4);
  store<f64>(p, x / samples);
  store<f64>(p, y / samples, 8);
}

/** @returns points that were gathered last */
export function gathered(): i32 {
  return pointCount;
}

/**
 * Gathers the points of pixels `from` to `to` of the band, counted over its columns: those of what covers each, then those of the layers over it.
 * @param kinds of each pixel, how many cover it @param layers of each pixel and one more, where its layers begin: in `over`, 32 bytes each, triangle, samples, sums of x and y
 * @param none where no layers are @param work room for 16 records of 32 bytes @param every 1: each sample by itself
 * @returns the first pixel for which there was no room
 */
export function gather(from: i32, to: i32, kinds: usize, layers: usize, over: usize, none: i32, work: usize, every: i32): i32 {
  pointCount = 0;
  const w = size * GRID;
  for (let p = from; p < to; p++) {
    const firstLayer = none ? 0 : load<i32>(layers + (<usize>p << 2));
    const endLayer = none ? 0 : load<i32>(layers + (<usize>p << 2), 4);
    if (pointCount + ALL + endLayer - firstLayer > capacity) return p;
    const py = p / columns;
    const px = firstColumn + (p - py * columns);
    let count = 0;
    const hits = hitAt + (<usize>((py * w + px) * GRID) << 2);
    const stride = <usize>w << 2;
    const lead = load<i32>(hits);
    let same = !every || lead < 0;
    if (same) {
      const all = i32x4.splat(lead);
      const rows = v128.and(
        v128.and(i32x4.eq(v128.load(hits), all), i32x4.eq(v128.load(hits + stride), all)),
        v128.and(i32x4.eq(v128.load(hits + 2 * stride), all), i32x4.eq(v128.load(hits + 3 * stride), all)),
      );
      same = i32x4.all_true(rows);
    }
    if (same) {
      if (lead >= 0) {
        addPoint(lead, <f64>ALL, (<f64>px + 0.5) * <f64>ALL, (y0 + <f64>py + 0.5) * <f64>ALL);
        count = 1;
      }
    } else {
      for (let sy = 0; sy < GRID; sy++)
        for (let sx = 0; sx < GRID; sx++) {
          const id = load<i32>(hits + <usize>sy * stride + (<usize>sx << 2));
          if (id < 0) continue;
          let k = every ? count : 0;
          let q = work + (<usize>k << 5);
          while (k < count && load<i32>(q) != id) {
            k++;
            q += 32;
          }
          if (k == count) {
            store<i32>(q, id);
            store<f64>(q, 0, 8);
            store<f64>(q, 0, 16);
            store<f64>(q, 0, 24);
            count++;
          }
          store<f64>(q, load<f64>(q, 8) + (<f64>px + (<f64>sx + 0.5) / 4), 8);
          store<f64>(q, load<f64>(q, 16) + (y0 + <f64>py + (<f64>sy + 0.5) / 4), 16);
          store<f64>(q, load<f64>(q, 24) + 1, 24);
        }
      for (let k = 0, q = work; k < count; k++, q += 32)
        addPoint(load<i32>(q), load<f64>(q, 24), load<f64>(q, 8), load<f64>(q, 16));
    }
    store<u8>(kinds + <usize>p, <u8>count);
    for (let l = firstLayer; l < endLayer; l++) {
      const q = over + (<usize>l << 5);
      addPoint(load<i32>(q), load<f64>(q, 8), load<f64>(q, 16), load<f64>(q, 24));
    }
  }
  return to;
}

/**
 * Barycentrics of a batch of points, and their UVs in each channel that has an image.
 * @param list number of each point @param recordOf of each, the record of its triangle @param bary three numbers each @param uv two numbers each, by channel, `step` bytes apart @param channels a bit each
 */
export function locate(count: i32, list: usize, recordOf: usize, records: usize, bary: usize, uv: usize, step: usize, channels: i32): void {
  for (let i = 0; i < count; i++, bary += 24, uv += 16) {
    const point = <usize>load<i32>(list + (<usize>i << 2));
    const s = records + <usize>load<i32>(recordOf + (<usize>i << 2)) * RECORD;
    const x = load<f64>(placeAt + (point << 4));
    const y = load<f64>(placeAt + (point << 4), 8);
    const sx = load<f64>(s);
    const sy = load<f64>(s, 8);
    const ux = load<f64>(s, 24);
    const uy = load<f64>(s, 32);
    const vx = load<f64>(s, 48);
    const vy = load<f64>(s, 56);
    const det = (ux - sx) * (vy - sy) - (vx - sx) * (uy - sy);
    const b = ((x - sx) * (vy - sy) - (vx - sx) * (y - sy)) / det;
    const c = ((ux - sx) * (y - sy) - (x - sx) * (uy - sy)) / det;
    const a = 1 - b - c;
    store<f64>(bary, a);
    store<f64>(bary, b, 8);
    store<f64>(bary, c, 16);
    let q = s + UVS;
    let out = uv;
    for (let k = 0; k < 5; k++, q += 24, out += step) {
      if (!(channels & (1 << k))) continue;
      store<f64>(out, a * <f64>load<f32>(q) + b * <f64>load<f32>(q, 8) + c * <f64>load<f32>(q, 16));
      store<f64>(out, a * <f64>load<f32>(q, 4) + b * <f64>load<f32>(q, 12) + c * <f64>load<f32>(q, 20), 8);
    }
  }
}

// @ts-expect-error: decorator
@inline function mixed(q: usize, step: usize, a: f64, b: f64, c: f64): f64 {
  return a * <f64>load<f32>(q) + b * <f64>load<f32>(q + step) + c * <f64>load<f32>(q + 2 * step);
}

// @ts-expect-error: decorator
@inline function reflected(base: f64, metallic: f64, fresnel: f64): f64 {
  const f0 = 0.04 + (base - 0.04) * metallic;
  return f0 + (1 - f0) * fresnel;
}

let nx: f64 = 0;
let ny: f64 = 0;
let nz: f64 = 0;

function unit(): void {
  let l = sqrt(nx * nx + ny * ny + nz * nz);
  if (l == 0 || l != l) l = 1;
  nx /= l;
  ny /= l;
  nz /= l;
}

/** The shading normal. @param s record @param v value of the normal map, 0 without one */
function normal(s: usize, v: usize, scale: f64, a: f64, b: f64, c: f64): void {
  nx = mixed(s + NORMALS, 12, a, b, c);
  ny = mixed(s + NORMALS + 4, 12, a, b, c);
  nz = mixed(s + NORMALS + 8, 12, a, b, c);
  unit();
  if (v) {
    let tx = mixed(s + TANGENTS, 16, a, b, c);
    let ty = mixed(s + TANGENTS + 4, 16, a, b, c);
    let tz = mixed(s + TANGENTS + 8, 16, a, b, c);
    const tw = mixed(s + TANGENTS + 12, 16, a, b, c);
    let tl = sqrt(tx * tx + ty * ty + tz * tz);
    if (tl == 0 || tl != tl) tl = 1;
    tx /= tl;
    ty /= tl;
    tz /= tl;
    const w: f64 = tw < 0 ? -1 : 1;
    const x = load<f64>(v) * scale;
    const y = load<f64>(v, 8) * scale * w;
    const z = load<f64>(v, 16);
    const bx = ny * tz - nz * ty;
    const by = nz * tx - nx * tz;
    const bz = nx * ty - ny * tx;
    const mx = tx * x + bx * y + nx * z;
    const my = ty * x + by * y + ny * z;
    const mz = tz * x + bz * y + nz * z;
    nx = mx;
    ny = my;
    nz = mz;
    unit();
  }
  if (!load<i32>(s, BACK)) return;
  nx = -nx;
  ny = -ny;
  nz = -nz;
}

/**
 * Shades a batch of points of one draw.
 * @param list, recordOf, records, bary as for `locate` @param look numbers of its material: see `LOOK` in src/view-kernel.ts
 * @param base, mr, map, occlusion, emissive four values a point, 0 where there is no image @param coloured 1: with vertex colours
 * @param rig toward the eye, ground, sky, then each light: direction, colour, half vector, Schlick term
 */
export function shade(
  count: i32,
  list: usize,
  recordOf: usize,
  records: usize,
  bary: usize,
  look: usize,
  base: usize,
  mr: usize,
  map: usize,
  occlusion: usize,
  emissive: usize,
  coloured: i32,
  rig: usize,
  lights: i32,
): void {
  const blended = load<f64>(look, 88) != 0;
  const unlit = load<f64>(look, 96) != 0;
  const tangents = load<f64>(look, 104) != 0;
  const ex = load<f64>(rig);
  const ey = load<f64>(rig, 8);
  const ez = load<f64>(rig, 16);
  const e0 = load<f64>(look, 64);
  const e1 = load<f64>(look, 72);
  const e2 = load<f64>(look, 80);
  const glows = e0 + e1 + e2 > 0;
  for (let i = 0; i < count; i++, bary += 24) {
    const point = <usize>load<i32>(list + (<usize>i << 2));
    const s = records + <usize>load<i32>(recordOf + (<usize>i << 2)) * RECORD;
    const q = <usize>i << 5;
    const a = load<f64>(bary);
    const b = load<f64>(bary, 8);
    const c = load<f64>(bary, 16);
    let r = load<f64>(look);
    let g = load<f64>(look, 8);
    let v = load<f64>(look, 16);
    let alpha = load<f64>(look, 24);
    if (base) {
      r *= load<f64>(base + q);
      g *= load<f64>(base + q, 8);
      v *= load<f64>(base + q, 16);
      alpha *= load<f64>(base + q, 24);
    }
    if (coloured) {
      r *= mixed(s + COLOURS, 16, a, b, c);
      g *= mixed(s + COLOURS + 4, 16, a, b, c);
      v *= mixed(s + COLOURS + 8, 16, a, b, c);
      alpha *= mixed(s + COLOURS + 12, 16, a, b, c);
    }
    const out = shadedAt + point * SHADED;
    store<f64>(out, r);
    store<f64>(out, g, 8);
    store<f64>(out, v, 16);
    store<f64>(out, blended ? min<f64>(1, max<f64>(0, alpha)) : 1, 48);
    if (unlit) {
      store<f64>(out, r, 24);
      store<f64>(out, g, 32);
      store<f64>(out, v, 40);
      continue;
    }
    const roughness = max<f64>(0.08, load<f64>(look, 40) * (mr ? load<f64>(mr + q, 8) : 1));
    const metallic = load<f64>(look, 32) * (mr ? load<f64>(mr + q, 16) : 1);
    const open = occlusion ? 1 + load<f64>(look, 56) * (load<f64>(occlusion + q) - 1) : 1;
    normal(s, tangents && map ? map + q : 0, load<f64>(look, 48), a, b, c);
    const ne = max<f64>(1e-3, nx * ex + ny * ey + nz * ez);
    const a2 = roughness * roughness * roughness * roughness;
    const k = ((roughness + 1) * (roughness + 1)) / 8;
    const ve = ne * (1 - k) + k;
    const up = ny * 0.5 + 0.5;
    let lr = (load<f64>(rig, 24) + (load<f64>(rig, 48) - load<f64>(rig, 24)) * up) * open * r;
    let lg = (load<f64>(rig, 32) + (load<f64>(rig, 56) - load<f64>(rig, 32)) * up) * open * g;
    let lb = (load<f64>(rig, 40) + (load<f64>(rig, 64) - load<f64>(rig, 40)) * up) * open * v;
    const rough = (1 - metallic) / Math.PI;
    let light = rig + 72;
    for (let l = 0; l < lights; l++, light += 80) {
      const nl = nx * load<f64>(light) + ny * load<f64>(light, 8) + nz * load<f64>(light, 16);
      if (nl <= 0) continue;
      const nh = max<f64>(0, nx * load<f64>(light, 48) + ny * load<f64>(light, 56) + nz * load<f64>(light, 64));
      const fresnel = load<f64>(light, 72);
      const p = nh * nh * (a2 - 1) + 1;
      const d = a2 / (Math.PI * p * p);
      const spec = d / ((nl * (1 - k) + k) * ve) / 4;
      const fr = reflected(r, metallic, fresnel);
      const fg = reflected(g, metallic, fresnel);
      const fb = reflected(v, metallic, fresnel);
      lr += load<f64>(light, 24) * nl * ((1 - fr) * rough * r + fr * spec);
      lg += load<f64>(light, 32) * nl * ((1 - fg) * rough * g + fg * spec);
      lb += load<f64>(light, 40) * nl * ((1 - fb) * rough * v + fb * spec);
    }
    if (glows) {
      lr += e0 * (emissive ? load<f64>(emissive + q) : 1);
      lg += e1 * (emissive ? load<f64>(emissive + q, 8) : 1);
      lb += e2 * (emissive ? load<f64>(emissive + q, 16) : 1);
    }
    store<f64>(out, lr, 24);
    store<f64>(out, lg, 32);
    store<f64>(out, lb, 40);
  }
}

/** Tables of `encodeByte`: where it begins for each 1/4096, and at which values bytes change. */
let guessAt: usize = 0;
let thresholdsAt: usize = 0;

export function encoding(guess: usize, thresholds: usize): void {
  guessAt = guess;
  thresholdsAt = thresholds;
}

// @ts-expect-error: decorator
@inline function encoded(v: f64): i32 {
  if (!(v > 0)) return 0;
  if (v >= 1) return 255;
  let b = <i32>load<u8>(guessAt + <usize>(<i32>(v * 4096)));
  while (b < 255 && load<f64>(thresholdsAt + (<usize>b << 3)) <= v) b++;
  return b;
}

/**
 * Writes pixels `from` to `to` of the band from the points that were gathered.
 * @param kinds, layers, none as for `gather` @param overGrey 1: over the background @param unlit, lit three bytes a pixel of the band @param coverage a byte each
 */
export function write(
  from: i32,
  to: i32,
  kinds: usize,
  layers: usize,
  none: i32,
  overGrey: i32,
  background: f64,
  unlit: usize,
  lit: usize,
  coverage: usize,
): void {
  let at = 0;
  for (let p = from; p < to; p++) {
    const count = <i32>load<u8>(kinds + <usize>p);
    const over = none ? 0 : load<i32>(layers + (<usize>p << 2), 4) - load<i32>(layers + (<usize>p << 2));
    if (count == 0 && over == 0) continue;
    let covered = 0;
    for (let k = 0; k < count; k++) covered += load<i32>(samplesAt + (<usize>(at + k) << 2));
    const opaque = overGrey != 0 || covered == 0;
    const parts = <f64>(opaque ? ALL : covered);
    const start = opaque ? (background * <f64>(ALL - covered)) / <f64>ALL : 0;
    let r0 = start;
    let g0 = start;
    let v0 = start;
    let r1 = start;
    let g1 = start;
    let v1 = start;
    for (let k = 0; k < count; k++, at++) {
      const share = <f64>load<i32>(samplesAt + (<usize>at << 2)) / parts;
      const q = shadedAt + <usize>at * SHADED;
      r0 += load<f64>(q) * share;
      g0 += load<f64>(q, 8) * share;
      v0 += load<f64>(q, 16) * share;
      r1 += load<f64>(q, 24) * share;
      g1 += load<f64>(q, 32) * share;
      v1 += load<f64>(q, 40) * share;
    }
    let most = 0;
    for (let k = 0; k < over; k++, at++) {
      const q = shadedAt + <usize>at * SHADED;
      const samples = load<i32>(samplesAt + (<usize>at << 2));
      const share = (load<f64>(q, 48) * <f64>samples) / <f64>ALL;
      r0 += (load<f64>(q) - r0) * share;
      g0 += (load<f64>(q, 8) - g0) * share;
      v0 += (load<f64>(q, 16) - v0) * share;
      r1 += (load<f64>(q, 24) - r1) * share;
      g1 += (load<f64>(q, 32) - g1) * share;
      v1 += (load<f64>(q, 40) - v1) * share;
      most = max(most, samples);
    }
    const py = p / columns;
    const o = <usize>(py * size + firstColumn + (p - py * columns));
    const shown = max(covered, most);
    store<u8>(coverage + o, <u8>floor((<f64>shown / <f64>ALL) * 255 + 0.5));
    store<u8>(unlit + o * 3, <u8>encoded(r0));
    store<u8>(unlit + o * 3, <u8>encoded(g0), 1);
    store<u8>(unlit + o * 3, <u8>encoded(v0), 2);
    store<u8>(lit + o * 3, <u8>encoded(r1));
    store<u8>(lit + o * 3, <u8>encoded(g1), 1);
    store<u8>(lit + o * 3, <u8>encoded(v1), 2);
  }
}
