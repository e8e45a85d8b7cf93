import type { FieldLoops } from './field-loops.ts';

/** The loops of assembly/field.ts in plain TypeScript: the tests hold the kernel against them. */
export const fieldReference: FieldLoops = ({ left, top, step, columns, rows, far }, segments, shape, near) => {
  // Squared until all segments have been seen.
  const distance = new Float32Array(columns * rows).fill(far * far);
  for (let s = 0; s < segments.length; s += 4) {
    const [ax, ay, bx, by] = segments.subarray(s, s + 4);
    const x0 = Math.max(0, Math.floor((Math.min(ax, bx) - near - left) / step));
    const x1 = Math.min(columns - 1, Math.ceil((Math.max(ax, bx) + near - left) / step));
    const y0 = Math.max(0, Math.floor((Math.min(ay, by) - near - top) / step));
    const y1 = Math.min(rows - 1, Math.ceil((Math.max(ay, by) + near - top) / step));
    const [dx, dy] = [bx - ax, by - ay];
    const l = dx * dx + dy * dy;
    const over = l > 0 ? 1 / l : 0;
    // Of a sloping segment, only what of it is near to a row counts there.
    const slope = Math.abs(dy) > step ? dx / dy : 0;
    const reach = (near + Math.abs(slope) * near) / step;
    for (let y = y0; y <= y1; y++) {
      const py = top + y * step - ay;
      let [from, to] = [x0, x1];
      if (slope !== 0) {
        const middle = (ax + py * slope - left) / step;
        from = Math.max(x0, Math.floor(middle - reach));
        to = Math.min(x1, Math.ceil(middle + reach));
      }
      for (let x = from, o = y * columns + from; x <= to; x++, o++) {
        const px = left + x * step - ax;
        const t = Math.min(Math.max((px * dx + py * dy) * over, 0), 1);
        const ex = px - t * dx;
        const ey = py - t * dy;
        distance[o] = Math.min(distance[o], ex * ex + ey * ey);
      }
    }
  }
  for (let i = 0; i < distance.length; i++) distance[i] = Math.sqrt(distance[i]);
  sweep(distance, columns, rows, step);
  markInside(distance, shape, left, top, step, columns, rows);
  return distance;
};

/** Distances beyond the band, by two sweeps over eight neighbours. */
function sweep(d: Float32Array, columns: number, rows: number, apart: number): void {
  const step = Math.fround(apart);
  const diagonal = Math.fround(apart * Math.SQRT2);
  // Each row from the one before it, then from its own left; and all that once more from the other end.
  const pass = (first: number, next: number) => {
    for (let y = 0, row = first; y < rows; y++, row += next * columns) {
      const last = row + next * (columns - 1);
      for (let x = 0, i = row; x < columns; x++, i += next) {
        let least = d[i];
        if (i !== row && d[i - next] + step < least) least = d[i - next] + step;
        if (y > 0) {
          const above = i - next * columns;
          if (d[above] + step < least) least = d[above] + step;
          if (i !== row && d[above - next] + diagonal < least) least = d[above - next] + diagonal;
          if (i !== last && d[above + next] + diagonal < least) least = d[above + next] + diagonal;
        }
        d[i] = least;
      }
    }
  };
  pass(0, 1);
  pass(columns * rows - 1, -1);
}

/** Turns the sign of nodes inside any triangle. */
function markInside(
  d: Float32Array,
  shape: Float64Array,
  left: number,
  top: number,
  step: number,
  columns: number,
  rows: number,
): void {
  for (let i = 0; i < shape.length; i += 6) {
    const ax = (shape[i] - left) / step;
    const ay = (shape[i + 1] - top) / step;
    const bx = (shape[i + 2] - left) / step;
    const by = (shape[i + 3] - top) / step;
    const cx = (shape[i + 4] - left) / step;
    const cy = (shape[i + 5] - top) / step;
    const turn = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
    if (turn === 0) continue;
    const y0 = Math.max(0, Math.ceil(Math.min(ay, by, cy)));
    const y1 = Math.min(rows - 1, Math.floor(Math.max(ay, by, cy)));
    for (let y = y0; y <= y1; y++) {
      let x0 = Infinity;
      let x1 = -Infinity;
      const cross = (px: number, py: number, qx: number, qy: number) => {
        if (py === qy ? py !== y : (py < y && qy < y) || (py > y && qy > y)) return;
        if (py === qy) {
          x0 = Math.min(x0, px, qx);
          x1 = Math.max(x1, px, qx);
          return;
        }
        // From the upper end, so that triangles on both sides of an edge find the same place, and no node falls between them.
        const x = py < qy ? px + ((y - py) / (qy - py)) * (qx - px) : qx + ((y - qy) / (py - qy)) * (px - qx);
        x0 = Math.min(x0, x);
        x1 = Math.max(x1, x);
      };
      cross(ax, ay, bx, by);
      cross(bx, by, cx, cy);
      cross(cx, cy, ax, ay);
      for (let x = Math.max(0, Math.ceil(x0)); x <= Math.min(columns - 1, Math.floor(x1)); x++) {
        const at = y * columns + x;
        if (d[at] > 0) d[at] = -d[at];
      }
    }
  }
}
