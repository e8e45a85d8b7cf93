import { ROWS as BAND, GRID } from '@wembrel/kernels/view-kernel';

/** Coverage samples along each axis of a pixel, and rows of pixels that are drawn at a time: as the kernel has them. */
export { BAND, GRID };

/** The sample rows of a triangle in a band, and how its barycentrics change along them. */
export class SampleRows {
  first = 0;
  last = -1;
  bStep = 0;
  cStep = 0;
  /** Of the present row: columns that may be covered, and b and c at column 0. */
  lo = 0;
  hi = -1;
  b0 = 0;
  c0 = 0;
  private ax = 0;
  private ay = 0;
  private bx = 0;
  private by = 0;
  private cx = 0;
  private cy = 0;
  private inv = 0;
  private left = 0;
  private right = -1;

  /** False when the triangle has no area on screen. */
  open(s: Float64Array, o: number, y0: number, size: number): boolean {
    this.ax = s[o] * GRID - 0.5;
    this.ay = (s[o + 1] - y0) * GRID - 0.5;
    this.bx = s[o + 3] * GRID - 0.5;
    this.by = (s[o + 4] - y0) * GRID - 0.5;
    this.cx = s[o + 6] * GRID - 0.5;
    this.cy = (s[o + 7] - y0) * GRID - 0.5;
    const { ax, ay, bx, by, cx, cy } = this;
    const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    if (det === 0) return false;
    this.inv = 1 / det;
    this.bStep = (cy - ay) * this.inv;
    this.cStep = -(by - ay) * this.inv;
    this.first = Math.max(0, Math.ceil(Math.min(ay, by, cy)));
    this.last = Math.min(BAND * GRID - 1, Math.floor(Math.max(ay, by, cy)));
    this.left = Math.max(0, Math.ceil(Math.min(ax, bx, cx)));
    this.right = Math.min(size * GRID - 1, Math.floor(Math.max(ax, bx, cx)));
    return true;
  }

  /** Sets the row: where each of a, b, c is not negative, widened by one sample; the caller tests exactly. */
  row(y: number): void {
    const { ax, ay, by, cx, cy, bx, inv, bStep, cStep } = this;
    const b0 = (-ax * (cy - ay) - (cx - ax) * (y - ay)) * inv;
    const c0 = ((bx - ax) * (y - ay) + ax * (by - ay)) * inv;
    let lo = this.left;
    let hi = this.right;
    for (let k = 0; k < 3; k++) {
      const v0 = k === 0 ? 1 - b0 - c0 : k === 1 ? b0 : c0;
      const step = k === 0 ? -bStep - cStep : k === 1 ? bStep : cStep;
      if (step > 0) lo = Math.max(lo, Math.floor(-v0 / step) - 1);
      else if (step < 0) hi = Math.min(hi, Math.ceil(-v0 / step) + 1);
      else if (v0 < 0) hi = -1;
    }
    this.b0 = b0;
    this.c0 = c0;
    this.lo = lo;
    this.hi = hi;
  }
}

const rows = new SampleRows();

/** Calls `visit` for each coverage sample of a triangle inside the band. */
export function eachSample(
  s: Float64Array,
  o: number,
  y0: number,
  size: number,
  visit: (index: number, a: number, b: number, c: number) => void,
): void {
  if (!rows.open(s, o, y0, size)) return;
  const w = size * GRID;
  for (let y = rows.first; y <= rows.last; y++) {
    rows.row(y);
    for (let x = rows.lo; x <= rows.hi; x++) {
      const b = rows.b0 + x * rows.bStep;
      const c = rows.c0 + x * rows.cStep;
      const a = 1 - b - c;
      if (a >= 0 && b >= 0 && c >= 0) visit(y * w + x, a, b, c);
    }
  }
}
