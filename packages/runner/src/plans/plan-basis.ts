import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { Cancelled } from '@wembrel/core/errors';
import type { PackedFigures } from '@wembrel/core/layout/coverage';
import { packedFigures } from '@wembrel/core/layout/coverage';
import { tangentsReady } from '@wembrel/core/mesh/tangents';
import type { PlanSlot } from '@wembrel/core/predict/plan-slot';
import { plannedSlots, withPlannedRoutes } from '@wembrel/core/predict/planned';
import { type PictureSizes, type Prediction, predict } from '@wembrel/core/predict/predict';
import { type Proposal, type ProposeOptions, propose } from '@wembrel/core/predict/propose/propose';
import { type SlotFacts, slotFacts } from '@wembrel/core/survey/slot-facts';
import type { JobScope } from '../pool/job-scope.ts';
import type { OnProgress } from '../progress.ts';
import { type PipelineInput, type StageContext, stageContext } from '../stages/context.ts';
import { packRouted } from '../stages/lay-out.ts';
import { mend } from '../stages/mend.ts';
import { type ReadFiles, read } from '../stages/read.ts';
import { routePlanned } from '../stages/route.ts';

/** What plans are made of: slots with their facts, sizes of pictures, and the models for who packs them. */
export interface PlanBasis {
  read: ReadFiles;
  facts: SlotFacts[];
  /** Slots of the models, then planned surfaces. */
  slots: PlanSlot[];
  sizes: PictureSizes;
}

/**
 * Reads files and gathers what plans are made of.
 * @throws InputError when no file can be read @throws Cancelled
 */
export async function planBasis(input: PipelineInput, scope: JobScope, onProgress?: OnProgress): Promise<PlanBasis> {
  const { decisions } = input;
  const context = stageContext(scope, onProgress);
  const mended = await mend(await read(input, context, { keepBytes: 0 }), decisions.repairs, scope);
  return basisOf(mended, decisions, context);
}

/** The same of models that were read and mended. @throws Cancelled */
export function basisOf(mended: ReadFiles, decisions: MergeDecisions, { scope, report }: StageContext): PlanBasis {
  const { images } = mended;
  const facts = slotFacts(
    mended.models.map((model) => model.model),
    {
      sizes: (i) => images.size(i),
      pixelKey: (i) => images.pixelKey(i),
      withoutUvs: true,
      checkpoint: (share) => {
        scope.checkpoint();
        report('plan', share, 'looking at surfaces');
      },
    },
  );
  return {
    read: mended,
    facts,
    slots: [...facts, ...plannedSlots(decisions.planned, mended.models.length)],
    sizes: (key) => (images.knows(key) ? images.byPixels(key) : { width: 1, height: 1 }),
  };
}

/** The prediction of a plan, from facts alone. */
export function predictBasis(
  planBasis: PlanBasis,
  decisions: MergeDecisions,
  packed: (PackedFigures | null)[] = [],
): Prediction {
  return predict(planBasis.slots, withPlannedRoutes(decisions, decisions.planned), planBasis.sizes, packed);
}

/** A proposal for what was read. @throws Cancelled */
export function proposeBasis(
  planBasis: PlanBasis,
  decisions: MergeDecisions,
  scope: JobScope,
  o: Omit<ProposeOptions, 'cancelled'> = {},
): Proposal {
  return propose(planBasis.slots, decisions, planBasis.sizes, { ...o, cancelled: () => scope.cancelled });
}

/** Packs the islands of every sheet; what that brings for the prediction. Planned surfaces are not in it. @throws Cancelled */
export async function packBasis(
  planBasis: PlanBasis,
  decisions: MergeDecisions,
  scope: JobScope,
  onProgress?: OnProgress,
): Promise<(PackedFigures | null)[]> {
  await tangentsReady;
  const { layout } = packRouted(routePlanned(planBasis.read, decisions), decisions, stageContext(scope, onProgress));
  if (scope.cancelled) throw new Cancelled();
  return layout.sheets.map((sheet) => packedFigures(sheet, decisions.scale));
}
