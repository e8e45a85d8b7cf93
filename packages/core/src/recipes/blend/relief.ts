import type { PxSteps, Samples } from '../samples.ts';
import { tangentNormal } from './lay-look.ts';
import { reoriented } from './modes.ts';
import { CHANGED, S, STATE_VALUES, type State } from './state.ts';

/** Heights of each sample, m, and of what lies a step to its right and below it. */
export interface HeightsBeside {
  /** px */
  step: number;
  here: Float32Array;
  right: Float32Array;
  below: Float32Array;
}

/**
 * Bends the normals by a height over the surface: its slope along the two ways that a px leads, solved for the plane of the triangle. Slopes belong to the surface,
 * not to the sheet, so that islands that lie in different ways agree.
 */
export function addRelief(state: State, samples: Samples, steps: PxSteps, heights: HeightsBeside): void {
  const { values, changed } = state;
  const bent = new Float64Array(3);
  const detail = new Float64Array(3);
  for (let i = 0; i < samples.count; i++) {
    const du = (heights.right[i] - heights.here[i]) / heights.step;
    const dv = (heights.below[i] - heights.here[i]) / heights.step;
    if (du === 0 && dv === 0) continue;
    const o = samples.triangle[i] * 6;
    const [ax, ay, az, bx, by, bz] = steps.subarray(o, o + 6);
    const aa = ax * ax + ay * ay + az * az;
    const ab = ax * bx + ay * by + az * bz;
    const bb = bx * bx + by * by + bz * bz;
    const det = aa * bb - ab * ab;
    if (!(det > 0)) continue;
    const p = (du * bb - dv * ab) / det;
    const q = (dv * aa - du * ab) / det;
    // The normal leans away from where it rises.
    tangentNormal(samples, i, -(p * ax + q * bx), -(p * ay + q * by), -(p * az + q * bz), 1, detail);
    const n = i * STATE_VALUES + S.shape;
    reoriented(values, n, detail, 0, bent);
    for (let c = 0; c < 3; c++) values[n + c] = bent[c];
    changed[i] |= CHANGED.normal;
  }
}
