import { type BayLook, bayLook } from '@wembrel/core/layout/bay-look';
import type { GatheredPlots } from '@wembrel/core/layout/layout';
import { plotStretch } from '@wembrel/core/layout/stretch';
import type { JobScope } from '../pool/job-scope.ts';
import type { OnProgress } from '../progress.ts';
import { type PipelineInput, stageContext } from '../stages/context.ts';
import { gatherPlots } from '../stages/lay-out.ts';
import { mend } from '../stages/mend.ts';
import { read } from '../stages/read.ts';
import { routePlanned } from '../stages/route.ts';

/** The islands of every sheet before they are packed, and how they look. */
export interface ShownPlots extends GatheredPlots {
  /** Of each plot, see `plotStretch`. */
  stretch: (number | null)[][];
  /** What the bays of each material show. */
  looks: BayLook[];
}

/**
 * Reads the files and gathers the islands of each sheet, not packed: what the browser needs to pack while options change.
 * @throws InputError when nothing can be read @throws Cancelled
 */
export async function gatherShownPlots(
  input: PipelineInput,
  scope: JobScope,
  onProgress?: OnProgress,
): Promise<ShownPlots> {
  const { decisions } = input;
  const context = stageContext(scope, onProgress);
  const mended = await mend(await read(input, context), decisions.repairs, scope);
  context.report('plan', 0, 'gathering islands');
  const routed = routePlanned(mended, decisions);
  const { routing, plots } = gatherPlots(routed, decisions);
  return {
    routing,
    plots,
    stretch: plots.map((sheet) => sheet.map((plot) => plotStretch(routed.models, plot))),
    looks: routing.materials.map((material) => bayLook(material, (i) => routed.images.size(i))),
  };
}
