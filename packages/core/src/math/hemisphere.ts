import { hash01 } from './hash.ts';
import { perpendicular } from './perpendicular.ts';

// The plastic number's powers: steps of a sequence that fills the square evenly, however many points are taken (Roberts 2018).
const STEP_U = 0.7548776662466927;
const STEP_V = 0.5698402909980532;

/**
 * Points of a hemisphere, cosine-weighted (Malley), low-discrepancy, turned for each texel by a hash; in a frame whose third axis is the middle.
 * @param from first point of the sequence @param spread 1 for the whole hemisphere; smaller for a cone about the middle (sine of its angle)
 */
export function hemisphere(count: number, from: number, seed: number, spread: number, out: Float64Array): void {
  const turnU = hash01(seed, 1);
  const turnV = hash01(seed, 2);
  for (let i = 0; i < count; i++) {
    const n = from + i + 1;
    let u = turnU + n * STEP_U;
    let v = turnV + n * STEP_V;
    u -= Math.floor(u);
    v -= Math.floor(v);
    const r = Math.sqrt(u) * spread;
    const a = 2 * Math.PI * v;
    out[i * 3] = r * Math.cos(a);
    out[i * 3 + 1] = r * Math.sin(a);
    out[i * 3 + 2] = Math.sqrt(Math.max(0, 1 - r * r));
  }
}

/** Two unit vectors square to a unit normal and to each other, six numbers. */
export function frameOf(n: ArrayLike<number>, out: Float64Array): void {
  const [x, y, z] = perpendicular(n[0], n[1], n[2]);
  out[0] = x;
  out[1] = y;
  out[2] = z;
  out[3] = n[1] * z - n[2] * y;
  out[4] = n[2] * x - n[0] * z;
  out[5] = n[0] * y - n[1] * x;
}
