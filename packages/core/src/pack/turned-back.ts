import { boxAround } from '../math/box.ts';

/** All numbers times a factor. */
export function scaled(list: Float64Array, by: number): Float64Array {
  const out = new Float64Array(list.length);
  for (let i = 0; i < out.length; i++) out[i] = list[i] * by;
  return out;
}

/** A shape about the middle of its box after it has been turned back by a direction. */
export function turnedBack(
  shape: Float64Array,
  [c, s]: readonly [number, number],
): { shape: Float64Array; halfWidth: number; halfHeight: number; offset: readonly [number, number] } {
  const [left, right, top, bottom] = boxAround([shape]);
  const out = new Float64Array(shape.length);
  for (let i = 0; i < shape.length; i += 2) {
    out[i] = c * shape[i] + s * shape[i + 1];
    out[i + 1] = c * shape[i + 1] - s * shape[i];
  }
  const [x0, x1, y0, y1] = boxAround([out]);
  for (let i = 0; i < out.length; i += 2) {
    out[i] -= (x0 + x1) / 2;
    out[i + 1] -= (y0 + y1) / 2;
  }
  const [mx, my] = [(left + right) / 2, (top + bottom) / 2];
  const offset = [c * mx + s * my - (x0 + x1) / 2, c * my - s * mx - (y0 + y1) / 2] as const;
  return { shape: out, halfWidth: (x1 - x0) / 2, halfHeight: (y1 - y0) / 2, offset };
}
