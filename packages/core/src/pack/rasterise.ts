/**
 * Conservative cells of a shape: every grid cell that any of its triangles touches. Degenerate triangles (lines, points) count.
 */

/** Turns of 90° that take (x, y) in a w × h box back into a box: 1 is x′ = h − y, y′ = x. None of them mirrors. */
export type Turns = 0 | 1 | 2 | 3;

/** Box of a shape at a scale, whole px, origin at 0. */
export function scaledBox(shape: Float64Array, scale: number): [number, number] {
  let w = 0;
  let h = 0;
  for (let i = 0; i < shape.length; i += 2) {
    w = Math.max(w, shape[i]);
    h = Math.max(h, shape[i + 1]);
  }
  return [Math.max(1, Math.ceil(w * scale - 1e-6)), Math.max(1, Math.ceil(h * scale - 1e-6))];
}

/** Area of all triangles of a shape, px². */
export function shapeArea(shape: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < shape.length; i += 6)
    sum += Math.abs(
      (shape[i + 2] - shape[i]) * (shape[i + 5] - shape[i + 1]) -
        (shape[i + 4] - shape[i]) * (shape[i + 3] - shape[i + 1]),
    );
  return sum / 2;
}

/**
 * @param points triangles in px, six numbers each, all ≥ 0
 * @param cell size of a grid cell, px
 * @returns byte mask of width × height cells, the shape's upper left cell at (0, 0)
 */
export function touchedCells(points: Float64Array, cell: number): { mask: Uint8Array; width: number; height: number } {
  let maxX = 0;
  let maxY = 0;
  for (let i = 0; i < points.length; i += 2) {
    maxX = Math.max(maxX, points[i]);
    maxY = Math.max(maxY, points[i + 1]);
  }
  // A hair of tolerance keeps a shape that ends exactly on a cell border out of the next cell.
  const eps = 1e-7;
  const width = Math.max(1, Math.ceil(maxX / cell - eps));
  const height = Math.max(1, Math.ceil(maxY / cell - eps));
  const mask = new Uint8Array(width * height);
  const xs = new Float64Array(3);
  const ys = new Float64Array(3);
  for (let i = 0; i < points.length; i += 6) {
    for (let k = 0; k < 3; k++) {
      xs[k] = points[i + 2 * k] / cell;
      ys[k] = points[i + 2 * k + 1] / cell;
    }
    const lo = Math.max(0, Math.floor(Math.min(ys[0], ys[1], ys[2]) + eps));
    const hi = Math.max(lo, Math.min(height - 1, Math.ceil(Math.max(ys[0], ys[1], ys[2]) - eps) - 1));
    for (let r = lo; r <= hi; r++) {
      // The part of the triangle between y = r and y = r + 1: its x extent comes from corners inside and edge crossings.
      let left = Infinity;
      let right = -Infinity;
      for (let k = 0; k < 3; k++) {
        const j = k === 2 ? 0 : k + 1;
        if (ys[k] >= r && ys[k] <= r + 1) {
          if (xs[k] < left) left = xs[k];
          if (xs[k] > right) right = xs[k];
        }
        for (let line = r; line <= r + 1; line++) {
          if (ys[k] < line === ys[j] < line) continue;
          const x = xs[k] + ((line - ys[k]) / (ys[j] - ys[k])) * (xs[j] - xs[k]);
          if (x < left) left = x;
          if (x > right) right = x;
        }
      }
      if (left > right) continue;
      const a = Math.max(0, Math.min(width - 1, Math.floor(left + eps)));
      const b = Math.max(a, Math.min(width - 1, Math.ceil(right - eps) - 1));
      mask.fill(1, r * width + a, r * width + b + 1);
    }
  }
  return { mask, width, height };
}

/**
 * All cells with any point nearer than `margin` px to a touched cell. The result is offset by `reach` cells up and left.
 */
export function dilate(
  mask: Uint8Array,
  width: number,
  height: number,
  margin: number,
  cell: number,
): { mask: Uint8Array; width: number; height: number; reach: number } {
  const m = margin / cell;
  // Two cells i apart have a gap of i − 1 cells between them.
  const reach = Math.ceil(m);
  const extent = new Int32Array(reach + 1).fill(-1);
  for (let dy = 0; dy <= reach; dy++)
    for (let dx = 0; dx <= reach; dx++) {
      const gx = Math.max(0, dx - 1);
      const gy = Math.max(0, dy - 1);
      if (gx * gx + gy * gy < m * m) extent[dy] = dx;
    }
  const w = width + 2 * reach;
  const h = height + 2 * reach;
  const out = new Uint8Array(w * h);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; ) {
      if (!mask[y * width + x]) {
        x++;
        continue;
      }
      const s = x;
      while (x < width && mask[y * width + x]) x++;
      for (let dy = -reach; dy <= reach; dy++) {
        const e = extent[Math.abs(dy)];
        if (e < 0) continue;
        const row = (y + reach + dy) * w;
        out.fill(1, row + s + reach - e, row + x + reach + e);
      }
    }
  if (margin === 0) out.set(mask);
  return { mask: out, width: w, height: h, reach };
}
