// Rigid shapes that keep a distance: the loops of src/crowd-reference.ts over linear memory. Four samples at a time are tested against the box of
// the other body's field; those inside are evaluated one by one in f64, so that the reference and this agree to the bit.

// Arrays of f64, one number a body, one after another from BODY on.
const X = 0;
const Y = 1;
const C = 2;
const S = 3;
const SIZE = 4;
const HALF_WIDTH = 5;
const HALF_HEIGHT = 6;
const SPACING = 7;
const LEFT = 8;
const TOP = 9;
const STEP = 10;
const LIGHTNESS = 11;
const ARM2 = 12;
const WALL = 13;
const ROW = 14;
const VX = 15;
const VY = 16;
const VT = 17;
const AX = 18;
const AY = 19;
const AT = 20;
const AW = 21;
const MOTION = 22;
// Arrays of i32, from COUNTS on.
const FREEDOM = 0;
const FIXED = 1;
const COLUMNS = 2;
const ROWS = 3;
const FIELD_AT = 4;
const SAMPLE_AT = 5;
const SAMPLE_COUNT = 6;

/** Where the nodes of four samples are kept. */
const NODES: usize = 512;
/** Px of a shape by which a distance at a point may be less than that at the node above it on the left, beside one and a half steps. */
const SLACK: f64 = 0.25;

let n: i32 = 0;
let body: usize = 0;
let counts: usize = 0;
let field: usize = 0;
let sampleX: usize = 0;
let sampleY: usize = 0;
let width: f64 = 0;
let height: f64 = 0;
let margin: f64 = 0;

// Cells of the sheet: a bit a body.
let grid: usize = 0;
let words: i32 = 0;
let cell: f64 = 1;
let gridColumns: i32 = 1;
let gridRows: i32 = 1;

// @ts-expect-error: decorator
@inline function num(array: i32, i: i32): f64 {
  return load<f64>(body + (<usize>(array * n + i) << 3));
}
// @ts-expect-error: decorator
@inline function set(array: i32, i: i32, v: f64): void {
  store<f64>(body + (<usize>(array * n + i) << 3), v);
}
// @ts-expect-error: decorator
@inline function int(array: i32, i: i32): i32 {
  return load<i32>(counts + (<usize>(array * n + i) << 2));
}

export function setUp(
  count: i32,
  bodyAt: usize,
  countsAt: usize,
  fieldAt: usize,
  sampleXAt: usize,
  sampleYAt: usize,
  sheetWidth: f64,
  sheetHeight: f64,
  gap: f64,
  gridAt: usize,
  cellSide: f64,
  columns: i32,
  rows: i32,
): void {
  n = count;
  body = bodyAt;
  counts = countsAt;
  field = fieldAt;
  sampleX = sampleXAt;
  sampleY = sampleYAt;
  width = sheetWidth;
  height = sheetHeight;
  margin = gap;
  grid = gridAt;
  words = (count + 63) >> 6;
  cell = cellSide;
  gridColumns = columns;
  gridRows = rows;
}

// @ts-expect-error: decorator
@inline function reachX(i: i32, c: f64, s: f64): f64 {
  return (Math.abs(c) * num(HALF_WIDTH, i) + Math.abs(s) * num(HALF_HEIGHT, i)) * num(SIZE, i);
}
// @ts-expect-error: decorator
@inline function reachY(i: i32, c: f64, s: f64): f64 {
  return (Math.abs(s) * num(HALF_WIDTH, i) + Math.abs(c) * num(HALF_HEIGHT, i)) * num(SIZE, i);
}

/** Px that nothing has moved by when it was put elsewhere: all that stand around it are looked at again. */
const ELSEWHERE: f64 = 1e6;
/** Share of a gap by which two may move towards each other unseen: a field's slope is √2 at most. */
const UNSEEN: f64 = 0.7;

/** By how much the pair that was looked at last may approach before any sample is too near, px. */
let gap: f64 = 0;

/** Pushes a out of b where they have moved enough since they were last seen to be apart; `wake` holds how much that is. */
// @ts-expect-error: decorator
@inline function pushAwake(a: i32, b: i32, weight: f64, moved: f64, wake: usize): f64 {
  if (moved < load<f64>(wake)) return 0;
  const d = push(a, b, weight);
  store<f64>(wake, d > 0 ? 0 : moved + gap * UNSEEN);
  return d;
}

/**
 * One round of pushing apart over `pairCount` pairs, their weights, and for each how far its bodies have to move before it is looked at again
 * (either way; 0: at once); returns the greatest depth.
 */
export function relax(pairs: usize, pairWeights: usize, wake: usize, pairCount: i32, momentum: f64): f64 {
  memory.fill(body + (<usize>(AX * n) << 3), 0, <usize>(4 * n) << 3);
  let worst: f64 = 0;
  for (let p = 0; p < pairCount; p++) {
    const a = load<i32>(pairs + (<usize>p << 3));
    const b = load<i32>(pairs + (<usize>p << 3), 4);
    const w = load<f64>(pairWeights + (<usize>p << 3));
    const moved = num(MOTION, a) + num(MOTION, b);
    const at = wake + (<usize>p << 4);
    const d = pushAwake(a, b, w, moved, at);
    if (d > worst) worst = d;
    const e = pushAwake(b, a, w, moved, at + 8);
    if (e > worst) worst = e;
  }
  for (let i = 0; i < n; i++)
    if (!int(FIXED, i)) {
      const d = pushIn(i);
      if (d > worst) worst = d;
    }
  for (let i = 0; i < n; i++) {
    const aw = num(AW, i);
    if (aw == 0 || int(FIXED, i)) {
      set(VX, i, 0);
      set(VY, i, 0);
      set(VT, i, 0);
      continue;
    }
    set(VX, i, momentum * num(VX, i) + num(AX, i) / aw);
    set(VY, i, momentum * num(VY, i) + num(AY, i) / aw);
    set(X, i, num(X, i) + num(VX, i));
    set(Y, i, num(Y, i) + num(VY, i));
    let motion = Math.abs(num(VX, i)) + Math.abs(num(VY, i));
    if (int(FREEDOM, i) == 2) {
      set(VT, i, momentum * num(VT, i) + num(AT, i) / aw);
      const t = num(VT, i) / num(SIZE, i);
      const c = num(C, i) - num(S, i) * t;
      const s = num(S, i) + num(C, i) * t;
      const l = Math.sqrt(c * c + s * s);
      set(C, i, c / l);
      set(S, i, s / l);
      const w = num(HALF_WIDTH, i);
      const h = num(HALF_HEIGHT, i);
      // Fields reach a little beyond their shapes.
      motion += Math.abs(t) * (Math.sqrt(w * w + h * h) * num(SIZE, i) + margin + 8);
    }
    set(MOTION, i, num(MOTION, i) + motion);
  }
  return worst;
}

/** The nodes above and to the left of four points of a field. */
// @ts-expect-error: decorator
@inline function nodesAt(u: v128, v: v128, columns: i32): v128 {
  return i32x4.add(
    i32x4.mul(i32x4.trunc_sat_f32x4_s(v), i32x4.splat(columns)),
    i32x4.trunc_sat_f32x4_s(u),
  );
}

function push(a: i32, b: i32, weight: f64): f64 {
  const ga = num(SIZE, a);
  const gb = num(SIZE, b);
  const dx = num(X, a) - num(X, b);
  const dy = num(Y, a) - num(Y, b);
  const ca = num(C, a);
  const sa = num(S, a);
  const cb = num(C, b);
  const sb = num(S, b);
  const tx = (cb * dx + sb * dy) / gb;
  const ty = (cb * dy - sb * dx) / gb;
  const overGb = 1 / gb;
  const ratio = ga / gb;
  const rc = (cb * ca + sb * sa) * ratio;
  const rs = (cb * sa - sb * ca) * ratio;
  const limit = margin / gb;
  const hx =
    num(HALF_WIDTH, b) + limit + Math.abs(rc) * num(HALF_WIDTH, a) + Math.abs(rs) * num(HALF_HEIGHT, a);
  const hy =
    num(HALF_HEIGHT, b) + limit + Math.abs(rs) * num(HALF_WIDTH, a) + Math.abs(rc) * num(HALF_HEIGHT, a);
  if (tx > hx || tx < -hx || ty > hy || ty < -hy) {
    gap = max(Math.abs(tx) - hx, Math.abs(ty) - hy) * gb;
    return 0;
  }
  const k = 1 / num(STEP, b);
  const left = num(LEFT, b);
  const top = num(TOP, b);
  const columns = int(COLUMNS, b);
  const lastX = <f64>(columns - 1);
  const lastY = <f64>(int(ROWS, b) - 1);
  const base = field + (<usize>int(FIELD_AT, b) << 2);
  const slack = 1.5 * num(STEP, b) + SLACK;
  const far = <f32>(limit + slack);
  // Beyond the field everything is at least as far as it reaches.
  let least: f64 = -left - num(HALF_WIDTH, b);
  const la = num(LIGHTNESS, a);
  const lb = num(LIGHTNESS, b);
  const turnA = int(FREEDOM, a) == 2 ? 1 / num(ARM2, a) : 0;
  const turnB = int(FREEDOM, b) == 2 ? 1 / num(ARM2, b) : 0;
  const count = int(SAMPLE_COUNT, a);
  const sx = sampleX + (<usize>int(SAMPLE_AT, a) << 2);
  const sy = sampleY + (<usize>int(SAMPLE_AT, a) << 2);
  const u0 = f32x4.splat(<f32>((tx - left) * k));
  const v0 = f32x4.splat(<f32>((ty - top) * k));
  const fc = f32x4.splat(<f32>(rc * k));
  const fs = f32x4.splat(<f32>(rs * k));
  const low = f32x4.splat(-0.01);
  const highX = f32x4.splat(<f32>lastX + 0.01);
  const highY = f32x4.splat(<f32>lastY + 0.01);
  let worst: f64 = 0;
  let axa: f64 = 0;
  let aya: f64 = 0;
  let ata: f64 = 0;
  let awa: f64 = 0;
  let axb: f64 = 0;
  let ayb: f64 = 0;
  let atb: f64 = 0;
  for (let i = 0; i < count; i += 4) {
    const x4 = v128.load(sx + (<usize>i << 2));
    const y4 = v128.load(sy + (<usize>i << 2));
    const u4 = f32x4.add(u0, f32x4.sub(f32x4.mul(fc, x4), f32x4.mul(fs, y4)));
    const v4 = f32x4.add(v0, f32x4.add(f32x4.mul(fs, x4), f32x4.mul(fc, y4)));
    const inside = v128.and(
      v128.and(f32x4.ge(u4, low), f32x4.ge(v4, low)),
      v128.and(f32x4.lt(u4, highX), f32x4.lt(v4, highY)),
    );
    let bits = i32x4.bitmask(inside);
    if (bits == 0) continue;
    v128.store(NODES, nodesAt(u4, v4, columns));
    while (bits) {
      const lane = ctz(bits);
      const j = i + lane;
      bits &= bits - 1;
      if (j >= count) break;
      const node = load<f32>(base + (<usize>load<i32>(NODES + (<usize>lane << 2)) << 2));
      if (node > far) {
        if (<f64>node - slack < least) least = <f64>node - slack;
        continue;
      }
      const lx = <f64>load<f32>(sx + (<usize>j << 2));
      const ly = <f64>load<f32>(sy + (<usize>j << 2));
      const u = (tx + rc * lx - rs * ly - left) * k;
      const v = (ty + rs * lx + rc * ly - top) * k;
      if (!(u >= 0 && v >= 0 && u < lastX && v < lastY)) continue;
      const iu = <i32>u;
      const iv = <i32>v;
      const o = base + (<usize>(iv * columns + iu) << 2);
      const fu = u - <f64>iu;
      const fv = v - <f64>iv;
      const d00 = <f64>load<f32>(o);
      const d10 = <f64>load<f32>(o, 4);
      const p = o + (<usize>columns << 2);
      const d01 = <f64>load<f32>(p);
      const d11 = <f64>load<f32>(p, 4);
      const e0 = d00 + (d10 - d00) * fu;
      const e1 = d01 + (d11 - d01) * fu;
      const d = e0 + (e1 - e0) * fv;
      if (d < least) least = d;
      if (d >= limit) continue;
      const depth = (limit - d) * gb;
      // The field's gradient is as good as of length 1; where it is shorter, the way out is not clear.
      const gx = ((d10 - d00) * (1 - fv) + (d11 - d01) * fv) * k;
      const gy = (e1 - e0) * k;
      const nx = cb * gx - sb * gy;
      const ny = sb * gx + cb * gy;
      const px = ca * lx - sa * ly;
      const py = sa * lx + ca * ly;
      const armA = px * ny - py * nx;
      const armB = ((px * ga + dx) * ny - (py * ga + dy) * nx) * overGb;
      const share =
        (depth * depth * weight) / (la * (1 + armA * armA * turnA) + lb * (1 + armB * armB * turnB));
      axa += share * la * nx;
      aya += share * la * ny;
      ata += share * la * armA * turnA;
      axb += share * lb * nx;
      ayb += share * lb * ny;
      atb += share * lb * armB * turnB;
      awa += depth * weight;
      if (depth > worst) worst = depth;
    }
  }
  gap = (least - limit) * gb;
  if (worst > 0) {
    set(AX, a, num(AX, a) + axa);
    set(AY, a, num(AY, a) + aya);
    set(AT, a, num(AT, a) + ata);
    set(AW, a, num(AW, a) + awa);
    set(AX, b, num(AX, b) - axb);
    set(AY, b, num(AY, b) - ayb);
    set(AT, b, num(AT, b) - atb);
    set(AW, b, num(AW, b) + awa);
  }
  return worst;
}

let hitX: f64 = 0;
let hitY: f64 = 0;
let hitT: f64 = 0;
let hitW: f64 = 0;

// @ts-expect-error: decorator
@inline function hit(depth: f64, nx: f64, ny: f64, px: f64, py: f64, turn: f64): void {
  const arm = px * ny - py * nx;
  const share = (depth * depth) / (1 + arm * arm * turn);
  hitX += share * nx;
  hitY += share * ny;
  hitT += share * arm * turn;
  hitW += depth;
}

function pushIn(a: i32): f64 {
  const e = margin / 2;
  const g = num(SIZE, a);
  const x = num(X, a);
  const y = num(Y, a);
  const c = num(C, a);
  const s = num(S, a);
  const rx = reachX(a, c, s) + e;
  const ry = reachY(a, c, s) + e;
  if (x >= rx && y >= ry && x <= width - rx && y <= height - ry) return 0;
  const turn = int(FREEDOM, a) == 2 ? 1 / num(ARM2, a) : 0;
  const count = int(SAMPLE_COUNT, a);
  const sx = sampleX + (<usize>int(SAMPLE_AT, a) << 2);
  const sy = sampleY + (<usize>int(SAMPLE_AT, a) << 2);
  let worst: f64 = 0;
  hitX = 0;
  hitY = 0;
  hitT = 0;
  hitW = 0;
  for (let i = 0; i < count; i++) {
    const lx = <f64>load<f32>(sx + (<usize>i << 2));
    const ly = <f64>load<f32>(sy + (<usize>i << 2));
    const px = c * lx - s * ly;
    const py = s * lx + c * ly;
    const wx = x + px * g;
    const wy = y + py * g;
    let d = 0.0;
    if (wx < e) hit((d = e - wx), 1, 0, px, py, turn);
    else if (wx > width - e) hit((d = wx - width + e), -1, 0, px, py, turn);
    if (d > worst) worst = d;
    d = 0;
    if (wy < e) hit((d = e - wy), 0, 1, px, py, turn);
    else if (wy > height - e) hit((d = wy - height + e), 0, -1, px, py, turn);
    if (d > worst) worst = d;
  }
  set(AX, a, num(AX, a) + hitX);
  set(AY, a, num(AY, a) + hitY);
  set(AT, a, num(AT, a) + hitT);
  set(AW, a, num(AW, a) + hitW);
  return worst;
}

// @ts-expect-error: decorator
@inline function gridColumn(x: f64): i32 {
  const c = <i32>Math.floor(x / cell);
  return min(max(c, 0), gridColumns - 1);
}
// @ts-expect-error: decorator
@inline function gridRow(y: f64): i32 {
  const r = <i32>Math.floor(y / cell);
  return min(max(r, 0), gridRows - 1);
}

/** Marks where all bodies are. */
export function locate(): void {
  memory.fill(grid, 0, <usize>(gridColumns * gridRows * words) << 3);
  for (let i = 0; i < n; i++) mark(i, true);
}

function mark(i: i32, there: bool): void {
  const c = num(C, i);
  const s = num(S, i);
  const rx = reachX(i, c, s);
  const ry = reachY(i, c, s);
  const x0 = gridColumn(num(X, i) - rx);
  const x1 = gridColumn(num(X, i) + rx);
  const y0 = gridRow(num(Y, i) - ry);
  const y1 = gridRow(num(Y, i) + ry);
  const bit = <u64>1 << (<u64>i & 63);
  for (let y = y0; y <= y1; y++)
    for (let x = x0; x <= x1; x++) {
      const at = grid + (<usize>((y * gridColumns + x) * words + (i >> 6)) << 3);
      store<u64>(at, there ? load<u64>(at) | bit : load<u64>(at) & ~bit);
    }
}

/** Puts a body elsewhere, without momentum. */
export function move(i: i32, x: f64, y: f64, c: f64, s: f64): void {
  mark(i, false);
  set(X, i, x);
  set(Y, i, y);
  set(C, i, c);
  set(S, i, s);
  set(VX, i, 0);
  set(VY, i, 0);
  set(VT, i, 0);
  set(MOTION, i, num(MOTION, i) + ELSEWHERE);
  mark(i, true);
}

/** What body a would be in the way at a place, px²; stops counting at `bound`. */
export function cost(a: i32, x: f64, y: f64, c: f64, s: f64, bound: f64): f64 {
  let total = outside(a, x, y, c, s) * num(WALL, a);
  if (total >= bound) return total;
  const rx = reachX(a, c, s) + margin;
  const ry = reachY(a, c, s) + margin;
  const x0 = gridColumn(x - rx);
  const x1 = gridColumn(x + rx);
  const y0 = gridRow(y - ry);
  const y1 = gridRow(y + ry);
  for (let w = 0; w < words; w++) {
    let bits: u64 = 0;
    for (let gy = y0; gy <= y1; gy++) {
      let at = grid + (<usize>((gy * gridColumns + x0) * words + w) << 3);
      for (let gx = x0; gx <= x1; gx++) {
        bits |= load<u64>(at);
        at += <usize>words << 3;
      }
    }
    while (bits) {
      const o = (w << 6) + <i32>ctz(bits);
      bits &= bits - 1;
      if (o == a) continue;
      const weight = num(ROW, o);
      const room = (bound - total) / weight;
      let over = depth(a, x, y, c, s, o, num(X, o), num(Y, o), num(C, o), num(S, o), room);
      if (over < room) over += depth(o, num(X, o), num(Y, o), num(C, o), num(S, o), a, x, y, c, s, room - over);
      total += weight * over;
      if (total >= bound) return total;
    }
  }
  return total;
}

/** How deep two bodies are in each other's way where they are, px². */
export function between(a: i32, b: i32): f64 {
  return (
    depth(a, num(X, a), num(Y, a), num(C, a), num(S, a), b, num(X, b), num(Y, b), num(C, b), num(S, b), Infinity) +
    depth(b, num(X, b), num(Y, b), num(C, b), num(S, b), a, num(X, a), num(Y, a), num(C, a), num(S, a), Infinity)
  );
}

function depth(
  a: i32,
  xa: f64,
  ya: f64,
  ca: f64,
  sa: f64,
  b: i32,
  xb: f64,
  yb: f64,
  cb: f64,
  sb: f64,
  bound: f64,
): f64 {
  const gb = num(SIZE, b);
  const ratio = num(SIZE, a) / gb;
  const dx = xa - xb;
  const dy = ya - yb;
  const tx = (cb * dx + sb * dy) / gb;
  const ty = (cb * dy - sb * dx) / gb;
  const rc = (cb * ca + sb * sa) * ratio;
  const rs = (cb * sa - sb * ca) * ratio;
  const limit = margin / gb;
  const hx =
    num(HALF_WIDTH, b) + limit + Math.abs(rc) * num(HALF_WIDTH, a) + Math.abs(rs) * num(HALF_HEIGHT, a);
  const hy =
    num(HALF_HEIGHT, b) + limit + Math.abs(rs) * num(HALF_WIDTH, a) + Math.abs(rc) * num(HALF_HEIGHT, a);
  if (tx > hx || tx < -hx || ty > hy || ty < -hy) return 0;
  const k = 1 / num(STEP, b);
  const left = num(LEFT, b);
  const top = num(TOP, b);
  const columns = int(COLUMNS, b);
  const lastX = <f64>(columns - 1);
  const lastY = <f64>(int(ROWS, b) - 1);
  const base = field + (<usize>int(FIELD_AT, b) << 2);
  const far = <f32>(limit + 1.5 * num(STEP, b) + SLACK);
  const per = num(SPACING, a) * num(SIZE, a) * gb;
  const most = bound / per;
  const count = int(SAMPLE_COUNT, a);
  const sx = sampleX + (<usize>int(SAMPLE_AT, a) << 2);
  const sy = sampleY + (<usize>int(SAMPLE_AT, a) << 2);
  const u0 = f32x4.splat(<f32>((tx - left) * k));
  const v0 = f32x4.splat(<f32>((ty - top) * k));
  const fc = f32x4.splat(<f32>(rc * k));
  const fs = f32x4.splat(<f32>(rs * k));
  const low = f32x4.splat(-0.01);
  const highX = f32x4.splat(<f32>lastX + 0.01);
  const highY = f32x4.splat(<f32>lastY + 0.01);
  let sum: f64 = 0;
  for (let i = 0; i < count; i += 4) {
    const x4 = v128.load(sx + (<usize>i << 2));
    const y4 = v128.load(sy + (<usize>i << 2));
    const u4 = f32x4.add(u0, f32x4.sub(f32x4.mul(fc, x4), f32x4.mul(fs, y4)));
    const v4 = f32x4.add(v0, f32x4.add(f32x4.mul(fs, x4), f32x4.mul(fc, y4)));
    const inside = v128.and(
      v128.and(f32x4.ge(u4, low), f32x4.ge(v4, low)),
      v128.and(f32x4.lt(u4, highX), f32x4.lt(v4, highY)),
    );
    let bits = i32x4.bitmask(inside);
    if (bits) v128.store(NODES, nodesAt(u4, v4, columns));
    while (bits) {
      const lane = ctz(bits);
      const j = i + lane;
      bits &= bits - 1;
      if (j >= count) break;
      const node = load<f32>(base + (<usize>load<i32>(NODES + (<usize>lane << 2)) << 2));
      if (node > far) continue;
      const lx = <f64>load<f32>(sx + (<usize>j << 2));
      const ly = <f64>load<f32>(sy + (<usize>j << 2));
      const u = (tx + rc * lx - rs * ly - left) * k;
      const v = (ty + rs * lx + rc * ly - top) * k;
      if (!(u >= 0 && v >= 0 && u < lastX && v < lastY)) continue;
      const iu = <i32>u;
      const iv = <i32>v;
      const o = base + (<usize>(iv * columns + iu) << 2);
      const fu = u - <f64>iu;
      const d00 = <f64>load<f32>(o);
      const e0 = d00 + (<f64>load<f32>(o, 4) - d00) * fu;
      const p = o + (<usize>columns << 2);
      const d01 = <f64>load<f32>(p);
      const e1 = d01 + (<f64>load<f32>(p, 4) - d01) * fu;
      const d = e0 + (e1 - e0) * (v - <f64>iv);
      if (d < limit) sum += limit - d;
    }
    if (sum > most) break;
  }
  return sum * per;
}

/** What lies outside the sheet or too near to its border, px². */
export function outside(a: i32, x: f64, y: f64, c: f64, s: f64): f64 {
  const e = margin / 2;
  const rx = reachX(a, c, s) + e;
  const ry = reachY(a, c, s) + e;
  if (x >= rx && y >= ry && x <= width - rx && y <= height - ry) return 0;
  const g = num(SIZE, a);
  const count = int(SAMPLE_COUNT, a);
  const sx = sampleX + (<usize>int(SAMPLE_AT, a) << 2);
  const sy = sampleY + (<usize>int(SAMPLE_AT, a) << 2);
  let sum: f64 = 0;
  for (let i = 0; i < count; i++) {
    const lx = <f64>load<f32>(sx + (<usize>i << 2));
    const ly = <f64>load<f32>(sy + (<usize>i << 2));
    const px = x + (c * lx - s * ly) * g;
    const py = y + (s * lx + c * ly) * g;
    if (px < e) sum += e - px;
    else if (px > width - e) sum += px - width + e;
    if (py < e) sum += e - py;
    else if (py > height - e) sum += py - height + e;
  }
  return sum * num(SPACING, a) * g * 2;
}
