import type { Condition } from '../../decisions/recipe/condition.ts';
import { compileCondition } from '../conditions/compile.ts';
import type { ConditionContext } from '../conditions/field.ts';
import type { RecipeJob } from '../job.ts';
import { LineEvaluator } from '../line.ts';
import { BATCH, type Samples } from '../samples.ts';
import { metresPerPx, type RecipeSurface } from '../surface.ts';
import type { TexelBatches } from './batches.ts';

/** Where something is, texel by texel. */
export interface Coverage {
  /** 0 … 255 at each texel of the sheet; 0 beside the islands. */
  texels: Uint8Array;
  /** Share of the surface, by its area in space, 0 … 1. */
  share: number;
}

/** Where a line of a recipe acts. @param number of the line in the recipe */
export function lineCoverage(job: RecipeJob, number: number, batches: TexelBatches): Coverage {
  const line = new LineEvaluator(job, number, 0);
  return covered(job.surface, batches, (samples, out) => line.coverage(samples, out));
}

/** Where a condition holds. */
export function conditionCoverage(condition: Condition, context: ConditionContext, batches: TexelBatches): Coverage {
  return covered(context.surface, batches, compileCondition(condition, context));
}

function covered(
  surface: RecipeSurface,
  batches: TexelBatches,
  field: (samples: Samples, out: Float32Array) => void,
): Coverage {
  const texels = new Uint8Array(surface.width * surface.height);
  const metres = metresPerPx(surface);
  const values = new Float32Array(BATCH);
  let [area, sum] = [0, 0];
  for (const samples of batches.all()) {
    field(samples, values);
    for (let i = 0; i < samples.count; i++) {
      const own = metres[samples.triangle[i]] ** 2;
      area += own;
      sum += own * values[i];
      texels[samples.texel[i]] = Math.round(255 * values[i]);
    }
  }
  return { texels, share: area > 0 ? sum / area : 0 };
}
