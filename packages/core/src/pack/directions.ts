/** Directions as (cosine, sine), from square roots alone, so that every engine has the same ones. */

export const QUARTERS: readonly (readonly [number, number])[] = [
  [1, 0],
  [0, 1],
  [-1, 0],
  [0, -1],
];

/** 64ths of a turn. */
export const TURNS: readonly (readonly [number, number])[] = (() => {
  let c = 0;
  let s = 1;
  for (let i = 0; i < 4; i++) {
    c = Math.sqrt((1 + c) / 2);
    s = Math.sqrt(1 - c * c);
  }
  const out: (readonly [number, number])[] = [[1, 0]];
  for (let i = 1; i < 64; i++) {
    const [a, b] = out[i - 1];
    const [x, y] = [a * c - b * s, a * s + b * c];
    const l = Math.sqrt(x * x + y * y);
    out.push(i % 16 === 0 ? QUARTERS[i / 16] : [x / l, y / l]);
  }
  return out;
})();

/** The convex hull of points given as (x, y) pairs: where in the list its corners are, counter-clockwise (Andrew 1979). */
export function convexHull(points: Float64Array): number[] {
  const order = Array.from({ length: points.length / 2 }, (_, i) => i * 2).sort(
    (a, b) => points[a] - points[b] || points[a + 1] - points[b + 1],
  );
  const turn = (o: number, a: number, b: number) =>
    (points[a] - points[o]) * (points[b + 1] - points[o + 1]) -
    (points[a + 1] - points[o + 1]) * (points[b] - points[o]);
  const half = (list: number[]) => {
    const out: number[] = [];
    for (const p of list) {
      while (out.length > 1 && turn(out[out.length - 2], out[out.length - 1], p) <= 0) out.pop();
      out.push(p);
    }
    out.pop();
    return out;
  };
  return [...half(order), ...half(order.reverse())];
}

/**
 * The direction whose turn back makes the box of a shape smallest: one of its hull's sides lies on the box (Freeman and Shapira 1975).
 * A shape that fits its upright box as well stays upright.
 * @param shape (x, y) pairs @param corners of its convex hull
 */
export function tightestDirection(shape: Float64Array, corners = convexHull(shape)): readonly [number, number] {
  let best: readonly [number, number] = [1, 0];
  let least = boxArea(shape, corners, 1, 0) * (1 - 1e-3);
  for (let i = 0; i < corners.length; i++) {
    const a = corners[i];
    const b = corners[(i + 1) % corners.length];
    const dx = shape[b] - shape[a];
    const dy = shape[b + 1] - shape[a + 1];
    const l = Math.sqrt(dx * dx + dy * dy);
    if (l < 1e-9) continue;
    const area = boxArea(shape, corners, dx / l, dy / l);
    if (area >= least) continue;
    least = area;
    best = [dx / l, dy / l];
  }
  return best;
}

/** Area of the convex hull of (x, y) pairs, its corners given. */
export function hullArea(points: Float64Array, corners: readonly number[]): number {
  let sum = 0;
  corners.forEach((corner, i) => {
    const b = corners[(i + 1) % corners.length];
    sum += points[corner] * points[b + 1] - points[b] * points[corner + 1];
  });
  return Math.abs(sum) / 2;
}

function boxArea(shape: Float64Array, corners: number[], c: number, s: number): number {
  let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const i of corners) {
    const x = c * shape[i] + s * shape[i + 1];
    const y = c * shape[i + 1] - s * shape[i];
    x0 = Math.min(x0, x);
    x1 = Math.max(x1, x);
    y0 = Math.min(y0, y);
    y1 = Math.max(y1, y);
  }
  return (x1 - x0) * (y1 - y0);
}
