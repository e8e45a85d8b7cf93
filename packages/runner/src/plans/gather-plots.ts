import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { InputError } from '@wembrel/core/errors';
import { type BayLook, bayLook } from '@wembrel/core/layout/bay-look';
import { plotsBySheet } from '@wembrel/core/layout/layout';
import type { Plot } from '@wembrel/core/layout/plot';
import { plotStretch } from '@wembrel/core/layout/stretch';
import type { ImageSizes } from '@wembrel/core/plan/layout-texture';
import { type Routing, route } from '@wembrel/core/plan/route';
import { withColouredLooks } from '@wembrel/core/predict/colour-plan';
import type { JobScope } from '../pool/job-scope.ts';
import { type OnProgress, reporter } from '../progress.ts';
import type { InputFile } from '../read/collect.ts';
import { repairModels } from '../stages/mend.ts';
import { surveyFiles } from '../stages/read.ts';

/** The islands of every sheet before they are packed. */
export interface GatheredPlots {
  routing: Routing;
  sheets: Plot[][];
  /** Of each of them, see `plotStretch`. */
  stretch: (number | null)[][];
  /** What the bays of each material show. */
  looks: BayLook[];
}

/**
 * Reads the files and gathers the islands of each sheet, not packed: what the browser needs to pack while options change.
 * @throws InputError when nothing can be read
 */
export async function gatherPlots(
  files: InputFile[],
  decisions: MergeDecisions,
  scope: JobScope,
  onProgress?: OnProgress,
  textures: InputFile[] = [],
): Promise<GatheredPlots> {
  const report = reporter(onProgress);
  const read = await surveyFiles(files, scope, {
    onProgress,
    textures,
    reading: decisions.reading,
    faces: decisions.faces,
  });
  if (read.models.length === 0) throw new InputError('project', 'there is no model that can be read');
  await repairModels(read, decisions.repairs, scope);
  report('plan', 0, 'gathering islands');
  const models = withColouredLooks(
    read.models.map((m) => m.model),
    decisions,
    read.images.pictures,
  );
  const routing = route(models, decisions, read.images.pictures);
  const sizes: ImageSizes = (i) => read.images.size(i);
  const sheets = plotsBySheet(models, routing, decisions.sheets, sizes);
  return {
    routing,
    sheets,
    stretch: sheets.map((plots) => plots.map((p) => plotStretch(models, p))),
    looks: routing.materials.map((m) => bayLook(m, sizes)),
  };
}
