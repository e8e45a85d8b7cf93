import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { Cancelled, InputError } from '@wembrel/core/errors';
import type { PackedFigures } from '@wembrel/core/layout/coverage';
import { packedFigures } from '@wembrel/core/layout/coverage';
import { layOut } from '@wembrel/core/layout/layout';
import { tangentsReady } from '@wembrel/core/mesh/tangents';
import { route } from '@wembrel/core/plan/route';
import { withColouredLooks } from '@wembrel/core/predict/colour-plan';
import type { PlanSlot } from '@wembrel/core/predict/plan-slot';
import { plannedSlots, withPlannedRoutes } from '@wembrel/core/predict/planned';
import { type PictureSizes, type Prediction, predict } from '@wembrel/core/predict/predict';
import { type Proposal, type ProposeOptions, propose } from '@wembrel/core/predict/propose/propose';
import { type SlotFacts, slotFacts } from '@wembrel/core/survey/slot-facts';
import type { JobScope } from '../pool/job-scope.ts';
import { type OnProgress, reporter } from '../progress.ts';
import type { InputFile } from '../read/collect.ts';
import { repairModels } from '../stages/mend.ts';
import { type ReadFiles, surveyFiles } from '../stages/read.ts';

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
export async function planBasis(
  files: InputFile[],
  decisions: MergeDecisions,
  scope: JobScope,
  onProgress?: OnProgress,
  textures: InputFile[] = [],
): Promise<PlanBasis> {
  const report = reporter(onProgress);
  const read = await surveyFiles(files, scope, {
    textures,
    reading: decisions.reading,
    faces: decisions.faces,
    keepBytes: 0,
    onProgress,
  });
  if (read.models.length === 0) {
    const e = read.report.errors[0];
    throw new InputError(e?.path ?? 'input', e?.message ?? 'there is no model that can be read');
  }
  await repairModels(read, decisions.repairs, scope);
  const { images } = read;
  const facts = slotFacts(
    read.models.map((m) => m.model),
    (i) => images.size(i),
    (i) => images.pixelKey(i),
    undefined,
    undefined,
    (share) => {
      scope.checkpoint();
      report('plan', share, 'looking at surfaces');
    },
  );
  return {
    read,
    facts,
    slots: [...facts, ...plannedSlots(decisions.planned, read.models.length)],
    sizes: (key) => (images.knows(key) ? images.byPixels(key) : { width: 1, height: 1 }),
  };
}

/** The prediction of a plan, from facts alone. */
export function predictBasis(b: PlanBasis, d: MergeDecisions, packed: (PackedFigures | null)[] = []): Prediction {
  return predict(b.slots, withPlannedRoutes(d, d.planned), b.sizes, packed);
}

/** A proposal for what was read. @throws Cancelled */
export function proposeBasis(
  b: PlanBasis,
  d: MergeDecisions,
  scope: JobScope,
  o: Omit<ProposeOptions, 'cancelled'> = {},
): Proposal {
  return propose(b.slots, d, b.sizes, { ...o, cancelled: () => scope.cancelled });
}

/** Packs the islands of every sheet; what that brings for the prediction. Planned surfaces are not in it. @throws Cancelled */
export async function packBasis(
  b: PlanBasis,
  d: MergeDecisions,
  scope: JobScope,
  onProgress?: OnProgress,
): Promise<(PackedFigures | null)[]> {
  await tangentsReady;
  const report = reporter(onProgress);
  const { images } = b.read;
  const models = withColouredLooks(
    b.read.models.map((m) => m.model),
    d,
    images.pictures,
  );
  const routing = route(models, d, images.pictures);
  const layout = layOut(models, routing, d, (i) => images.size(i), {
    cancelled: () => scope.cancelled,
    progress: (share, doing) => report('layout', share, doing),
  });
  if (scope.cancelled) throw new Cancelled();
  return layout.sheets.map((s) => packedFigures(s, d.scale));
}
