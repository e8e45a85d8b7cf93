import type { ConditionContext } from '../conditions/field.ts';
import { type MeasuredCondition, measureOf } from '../conditions/measure.ts';
import { BATCH } from '../samples.ts';
import type { TexelBatches } from './batches.ts';

/**
 * What a condition measures at each texel, in the unit of the measure; NaN beside the islands and where nothing is measured.
 * @returns width · height values from the upper left; null where what it reads is not there
 */
export function measuredTexels(
  condition: MeasuredCondition,
  context: ConditionContext,
  batches: TexelBatches,
): Float32Array | null {
  const measure = measureOf(condition, context);
  if (!measure) return null;
  const { width, height } = context.surface;
  const texels = new Float32Array(width * height).fill(Number.NaN);
  const values = new Float32Array(BATCH);
  for (const samples of batches.all()) {
    measure(samples, values);
    for (let i = 0; i < samples.count; i++) texels[samples.texel[i]] = values[i];
  }
  return texels;
}
