import type { DisjointSet } from '../math/disjoint-set.ts';
import { trianglesOverlap } from './overlap.ts';

/** A list of whole numbers that grows. */
class Numbers {
  length = 0;
  of = new Int32Array(1024);

  push(value: number): void {
    if (this.length === this.of.length) {
      const longer = new Int32Array(this.length * 2);
      longer.set(this.of);
      this.of = longer;
    }
    this.of[this.length++] = value;
  }
}

/**
 * Joins the sets of triangles that overlap. Those of one cell are kept by their set, so that what is joined already is passed over as a whole: islands
 * that lie on each other a hundred times are compared once, not ten thousand times.
 * @param triangles x0 y0 x1 y1 x2 y2 each, texels @param owner element of `sets` that each belongs to @param eps depth below which they only touch, texels
 */
export function joinOverlapping(
  triangles: Float64Array,
  owner: ArrayLike<number>,
  sets: DisjointSet,
  eps: number,
): void {
  const grid = cellsOf(triangles, owner.length);
  const firstBucket = new Int32Array(grid.columns * grid.rows).fill(-1);
  // Of each bucket: an owner of its set, its first entry, and the next bucket of its cell; of each entry: a triangle and the next entry.
  const [bucketOwner, bucketEntry, nextBucket] = [new Numbers(), new Numbers(), new Numbers()];
  const [entryTriangle, nextEntry] = [new Numbers(), new Numbers()];
  // First column and row of each triangle. Two that share many cells are compared in the first of them alone.
  const [left, top] = [new Int32Array(owner.length), new Int32Array(owner.length)];
  const touches = (t: number, bucket: number, x: number, y: number): boolean => {
    for (let e = bucketEntry.of[bucket]; e >= 0; e = nextEntry.of[e]) {
      const other = entryTriangle.of[e];
      if (x !== Math.max(left[t], left[other]) || y !== Math.max(top[t], top[other])) continue;
      if (trianglesOverlap(triangles, t * 6, triangles, other * 6, eps)) return true;
    }
    return false;
  };
  for (let t = 0; t < owner.length; t++) {
    const o = t * 6;
    const x0 = grid.column(Math.min(triangles[o], triangles[o + 2], triangles[o + 4]));
    const x1 = grid.column(Math.max(triangles[o], triangles[o + 2], triangles[o + 4]));
    const y0 = grid.row(Math.min(triangles[o + 1], triangles[o + 3], triangles[o + 5]));
    const y1 = grid.row(Math.max(triangles[o + 1], triangles[o + 3], triangles[o + 5]));
    left[t] = x0;
    top[t] = y0;
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const cell = y * grid.columns + x;
        let own = -1;
        for (let b = firstBucket[cell]; b >= 0; b = nextBucket.of[b]) {
          const other = bucketOwner.of[b];
          if (sets.find(other) !== sets.find(owner[t]) && touches(t, b, x, y)) sets.join(other, owner[t]);
          if (own < 0 && sets.find(other) === sets.find(owner[t])) own = b;
        }
        if (own < 0) {
          own = bucketOwner.length;
          bucketOwner.push(owner[t]);
          bucketEntry.push(-1);
          nextBucket.push(firstBucket[cell]);
          firstBucket[cell] = own;
        }
        nextEntry.push(bucketEntry.of[own]);
        entryTriangle.push(t);
        bucketEntry.of[own] = nextEntry.length - 1;
      }
  }
}

/** A grid of about as many cells as there are triangles. */
function cellsOf(triangles: Float64Array, count: number) {
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < count * 6; i += 2) {
    if (triangles[i] < minX) minX = triangles[i];
    if (triangles[i] > maxX) maxX = triangles[i];
    if (triangles[i + 1] < minY) minY = triangles[i + 1];
    if (triangles[i + 1] > maxY) maxY = triangles[i + 1];
  }
  const side = Math.max(8, Math.min(2048, Math.ceil(Math.sqrt(count))));
  const size = Math.max((maxX - minX) / side, (maxY - minY) / side, 1e-9);
  return {
    columns: side + 2,
    rows: side + 2,
    column: (x: number) => Math.floor((x - minX) / size),
    row: (y: number) => Math.floor((y - minY) / size),
  };
}
