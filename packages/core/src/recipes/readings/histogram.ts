import type { ConditionContext } from '../conditions/field.ts';
import { type MeasuredCondition, measureOf } from '../conditions/measure.ts';
import { belongs } from '../conditions/ramp.ts';
import { BATCH } from '../samples.ts';
import { metresPerPx } from '../surface.ts';
import type { TexelBatches } from './batches.ts';

/** How often each value of a measure is met on a surface. */
export interface MeasureHistogram {
  /** Least and greatest value that is shown, in the unit of the measure. */
  from: number;
  to: number;
  /** Shares of the surface, by its area in space; `shares.length` equal steps. */
  shares: number[];
  /** Share of the surface that belongs to the stretch, 0 … 1. */
  share: number;
}

const STEPS = 64;

/** Ends of measures that have some. */
const RANGES: Partial<Record<MeasuredCondition['of'], readonly [number, number]>> = {
  curvature: [-1, 1],
  convex: [0, 1],
  concave: [0, 1],
  ao: [0, 1],
  thickness: [0, 1],
  facing: [0, 180],
  random: [0, 1],
  noise: [0, 1],
  mask: [0, 1],
};

/** The histogram of what a condition measures, and how much of the surface lies in its stretch; null where what it reads is not there. */
export function measureHistogram(
  condition: MeasuredCondition,
  context: ConditionContext,
  batches: TexelBatches,
): MeasureHistogram | null {
  const measure = measureOf(condition, context);
  if (!measure) return null;
  const { surface } = context;
  const metres = metresPerPx(surface);
  const out = new Float32Array(BATCH);
  const values: number[] = [];
  const areas: number[] = [];
  let [total, inside, low, high] = [0, 0, Infinity, -Infinity];
  for (const samples of batches.all()) {
    measure(samples, out);
    for (let i = 0; i < samples.count; i++) {
      const v = out[i];
      if (!Number.isFinite(v)) continue;
      const area = metres[samples.triangle[i]] ** 2;
      values.push(v);
      areas.push(area);
      total += area;
      inside += area * belongs(v, condition);
      if (v < low) low = v;
      if (v > high) high = v;
    }
  }
  if (total === 0) return null;
  const [from, to] = RANGES[condition.of] ?? [low, high > low ? high : low + 1];
  const shares = new Array<number>(STEPS).fill(0);
  values.forEach((v, i) => {
    const k = Math.min(STEPS - 1, Math.max(0, Math.floor(((v - from) / (to - from)) * STEPS)));
    shares[k] += areas[i] / total;
  });
  return { from, to, shares, share: inside / total };
}
