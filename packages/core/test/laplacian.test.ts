import { expect, test } from 'vitest';
import { Laplacian } from '../src/unwrap/laplacian.ts';
import { numbers } from './build.ts';

/** Triangles of a grid of squares, with weights of their sides from 0.01 to 50. */
function grid(side: number, seed: number): { n: number; corners: Uint32Array; weights: Float64Array } {
  const next = numbers(seed);
  const list: number[] = [];
  for (let y = 0; y < side - 1; y++)
    for (let x = 0; x < side - 1; x++) {
      const a = y * side + x;
      list.push(a, a + 1, a + side + 1, a, a + side + 1, a + side);
    }
  // A triangle without area has a side from a place to itself.
  list.push(0, 0, 1);
  return {
    n: side * side,
    corners: Uint32Array.from(list),
    weights: Float64Array.from(list, () => 0.01 * 5000 ** next()),
  };
}

test('solves what the sides of the triangles say, from anywhere, up to a move of all', () => {
  for (const [side, seed] of [
    [2, 1],
    [7, 2],
    [24, 3],
  ]) {
    const { n, corners, weights } = grid(side, seed);
    const next = numbers(seed + 10);
    const wanted = Float64Array.from({ length: n * 2 }, () => next() * 2 - 1);
    const right = new Float64Array(n * 2);
    for (let s = 0; s < corners.length; s++) {
      const [a, b] = [corners[s], corners[s % 3 === 2 ? s - 2 : s + 1]];
      for (let c = 0; c < 2; c++) {
        const d = weights[s] * (wanted[2 * a + c] - wanted[2 * b + c]);
        right[2 * a + c] += d;
        right[2 * b + c] -= d;
      }
    }
    const from = Float64Array.from({ length: n * 2 }, () => next() * 9);
    const x = new Laplacian(n, corners, weights).solve(right, from, 1000);
    const left = right.slice();
    for (let s = 0; s < corners.length; s++) {
      const [a, b] = [corners[s], corners[s % 3 === 2 ? s - 2 : s + 1]];
      for (let c = 0; c < 2; c++) {
        const d = weights[s] * (x[2 * a + c] - x[2 * b + c]);
        left[2 * a + c] -= d;
        left[2 * b + c] += d;
      }
    }
    const squared = (v: Float64Array) => v.reduce((sum, r) => sum + r * r, 0);
    expect(squared(left)).toBeLessThan(1.01e-7 * squared(right));
    // A start that solves it already stays.
    expect(new Laplacian(n, corners, weights).solve(right, x, 1000)).toEqual(x);
  }
});
