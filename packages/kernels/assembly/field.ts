// Distance fields of flat shapes: the loops of src/field-reference.ts over linear memory, to the bit. A field is rows of f32; segments are four, triangles six
// numbers of f64.

let field: usize = 0;
let columns: i32 = 0;
let rows: i32 = 0;
let left: f64 = 0;
let top: f64 = 0;
let step: f64 = 0;

// Where the triangle that is looked at meets a row.
let row: f64 = 0;
let from: f64 = 0;
let to: f64 = 0;

/** @param far what every node has that no segment is near to, px */
export function setUp(at: usize, across: i32, down: i32, x: f64, y: f64, apart: f64, far: f64): void {
  field = at;
  columns = across;
  rows = down;
  left = x;
  top = y;
  step = apart;
  // Up to three nodes too many: there is room.
  const d = f32x4.splat(<f32>(far * far));
  for (let i = 0; i < columns * rows; i += 4) v128.store(field + (<usize>i << 2), d);
}

/** Distances at all nodes within `near` px of a segment; of others to the nearest of eight sides that has one, step by step. */
export function spread(segments: usize, count: i32, near: f64): void {
  for (let s = 0; s < count; s++) {
    const at = segments + (<usize>s << 5);
    draw(load<f64>(at), load<f64>(at, 8), load<f64>(at, 16), load<f64>(at, 24), near);
  }
  const end = field + (<usize>(columns * rows) << 2);
  for (let p = field; p < end; p += 4) store<f32>(p, sqrt(load<f32>(p)));
  sweep();
}

function draw(ax: f64, ay: f64, bx: f64, by: f64, near: f64): void {
  const x0 = max(0, <i32>Math.floor((min(ax, bx) - near - left) / step));
  const x1 = min(columns - 1, <i32>Math.ceil((max(ax, bx) + near - left) / step));
  const y0 = max(0, <i32>Math.floor((min(ay, by) - near - top) / step));
  const y1 = min(rows - 1, <i32>Math.ceil((max(ay, by) + near - top) / step));
  const dx = bx - ax;
  const dy = by - ay;
  const l = dx * dx + dy * dy;
  const over = l > 0 ? 1 / l : 0;
  const slope = Math.abs(dy) > step ? dx / dy : 0;
  const reach = (near + Math.abs(slope) * near) / step;
  const zero = f64x2.splat(0);
  const one = f64x2.splat(1);
  const dx2 = f64x2.splat(dx);
  const dy2 = f64x2.splat(dy);
  const over2 = f64x2.splat(over);
  for (let y = y0; y <= y1; y++) {
    const py = top + <f64>y * step - ay;
    let first = x0;
    let last = x1;
    if (slope != 0) {
      const middle = (ax + py * slope - left) / step;
      first = max(x0, <i32>Math.floor(middle - reach));
      last = min(x1, <i32>Math.ceil(middle + reach));
    }
    const line = field + (<usize>(y * columns) << 2);
    const py2 = f64x2.splat(py);
    const up = f64x2.mul(py2, dy2);
    // Two at a time; one beyond the last is written over with what it had, or less.
    for (let x = first; x <= last; x += 2) {
      const px2 = f64x2(left + <f64>x * step - ax, left + <f64>(x + 1) * step - ax);
      let t = f64x2.mul(f64x2.add(f64x2.mul(px2, dx2), up), over2);
      t = f64x2.min(f64x2.max(t, zero), one);
      const ex = f64x2.sub(px2, f64x2.mul(t, dx2));
      const ey = f64x2.sub(py2, f64x2.mul(t, dy2));
      const d = f32x4.demote_f64x2_zero(f64x2.add(f64x2.mul(ex, ex), f64x2.mul(ey, ey)));
      const p = line + (<usize>x << 2);
      store<f32>(p, min(load<f32>(p), f32x4.extract_lane(d, 0)));
      if (x < last) store<f32>(p, min(load<f32>(p, 4), f32x4.extract_lane(d, 1)), 4);
    }
  }
}

/** Each row from the one before it, then from its own left; and all that once more from the other end. */
function sweep(): void {
  const straight = <f32>step;
  const diagonal = <f32>(step * 1.4142135623730951);
  const stride = <usize>columns << 2;
  for (let y = 0; y < rows; y++) {
    const line = field + <usize>y * stride;
    if (y > 0) takeOver(line, line - stride, straight, diagonal);
    let before = load<f32>(line);
    for (let x = 1; x < columns; x++) {
      const p = line + (<usize>x << 2);
      before = min(load<f32>(p), before + straight);
      store<f32>(p, before);
    }
  }
  for (let y = rows - 1; y >= 0; y--) {
    const line = field + <usize>y * stride;
    if (y < rows - 1) takeOver(line, line + stride, straight, diagonal);
    let before = load<f32>(line + (<usize>(columns - 1) << 2));
    for (let x = columns - 2; x >= 0; x--) {
      const p = line + (<usize>x << 2);
      before = min(load<f32>(p), before + straight);
      store<f32>(p, before);
    }
  }
}

/** A row from the one beside it. */
// @ts-expect-error: decorator
@inline function takeOver(line: usize, beside: usize, straight: f32, diagonal: f32): void {
  const s = f32x4.splat(straight);
  const d = f32x4.splat(diagonal);
  nodeFrom(line, beside, 0, straight, diagonal);
  let x = 1;
  for (; x + 4 < columns; x += 4) {
    const p = line + (<usize>x << 2);
    const q = beside + (<usize>x << 2);
    let least = f32x4.min(v128.load(p), f32x4.add(v128.load(q), s));
    least = f32x4.min(least, f32x4.add(v128.load(q - 4), d));
    least = f32x4.min(least, f32x4.add(v128.load(q + 4), d));
    v128.store(p, least);
  }
  for (; x < columns; x++) nodeFrom(line, beside, x, straight, diagonal);
}

// @ts-expect-error: decorator
@inline function nodeFrom(line: usize, beside: usize, x: i32, straight: f32, diagonal: f32): void {
  const p = line + (<usize>x << 2);
  const q = beside + (<usize>x << 2);
  let least = min(load<f32>(p), load<f32>(q) + straight);
  if (x > 0) least = min(least, load<f32>(q - 4) + diagonal);
  if (x < columns - 1) least = min(least, load<f32>(q + 4) + diagonal);
  store<f32>(p, least);
}

/** Turns the sign of nodes inside any triangle. */
export function markInside(shape: usize, triangles: i32): void {
  for (let i = 0; i < triangles; i++) {
    const at = shape + <usize>(i * 48);
    const ax = (load<f64>(at) - left) / step;
    const ay = (load<f64>(at, 8) - top) / step;
    const bx = (load<f64>(at, 16) - left) / step;
    const by = (load<f64>(at, 24) - top) / step;
    const cx = (load<f64>(at, 32) - left) / step;
    const cy = (load<f64>(at, 40) - top) / step;
    if ((bx - ax) * (cy - ay) - (by - ay) * (cx - ax) == 0) continue;
    const y0 = max(0, <i32>Math.ceil(min(ay, min(by, cy))));
    const y1 = min(rows - 1, <i32>Math.floor(max(ay, max(by, cy))));
    for (let y = y0; y <= y1; y++) {
      row = <f64>y;
      from = Infinity;
      to = -Infinity;
      meet(ax, ay, bx, by);
      meet(bx, by, cx, cy);
      meet(cx, cy, ax, ay);
      const x0 = <i32>Math.ceil(max(0, from));
      const x1 = <i32>Math.floor(min(<f64>(columns - 1), to));
      for (let x = x0; x <= x1; x++) {
        const p = field + (<usize>(y * columns + x) << 2);
        const d = load<f32>(p);
        if (d > 0) store<f32>(p, -d);
      }
    }
  }
}

// @ts-expect-error: decorator
@inline function meet(px: f64, py: f64, qx: f64, qy: f64): void {
  if (py == qy) {
    if (py != row) return;
    from = min(from, min(px, qx));
    to = max(to, max(px, qx));
    return;
  }
  if ((py < row && qy < row) || (py > row && qy > row)) return;
  // From the upper end, so that triangles on both sides of an edge find the same place, and no node falls between them.
  const x = py < qy ? px + ((row - py) / (qy - py)) * (qx - px) : qx + ((row - qy) / (py - qy)) * (px - qx);
  from = min(from, x);
  to = max(to, x);
}
