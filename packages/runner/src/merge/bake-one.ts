import { InputError } from '@wembrel/core/errors';
import { Names } from '@wembrel/core/handover/names';
import type { Layout } from '@wembrel/core/layout/layout';
import type { JobScope } from '../pool/job-scope.ts';
import { stopwatch } from '../progress.ts';
import { bakeSheet } from '../stages/bake.ts';
import { stageContext } from '../stages/context.ts';
import { layOut } from '../stages/lay-out.ts';
import { mend } from '../stages/mend.ts';
import { read } from '../stages/read.ts';
import { reshape, routeModels } from '../stages/route.ts';
import { mapPaths, writeSheet } from '../stages/write-sheet.ts';
import { Delivery } from '../write/delivery.ts';
import { TextureFiles } from '../write/write-models.ts';
import { type SheetReport, sheetReport } from './report.ts';
import type { MergeRequest } from './request.ts';

export interface OneSheet {
  sheet: SheetReport;
  layout: Layout;
  /** Material → slot name, for the bays. */
  slots: string[];
  written: string[];
  seconds: Record<string, number>;
}

/**
 * Bakes a single sheet and writes its maps, no models: a quick look at one of several.
 * @param id of the sheet in the decisions
 * @throws InputError when nothing goes to that sheet
 */
export async function bakeOne(request: MergeRequest, id: string, scope: JobScope): Promise<OneSheet> {
  const { decisions } = request;
  const context = stageContext(scope, request.onProgress);
  const { seconds, lap } = stopwatch(scope);
  const mended = await mend(await read(request, context), decisions.repairs, scope);
  const reshaped = await reshape(mended, decisions, context);
  lap('read');
  const laidOut = await layOut(routeModels(reshaped, decisions), decisions, context);
  lap('layout');
  const { layout, routing } = laidOut;
  const s = decisions.sheets.findIndex((sheet) => sheet.id === id);
  if (s < 0 || layout.sheets[s].plots.length === 0)
    throw new InputError(decisions.sheets[s]?.name ?? id, 'no slot goes to this sheet');
  const baked = await bakeSheet({ laidOut, sheet: s, d: decisions, options: request }, scope, (share, doing) =>
    context.report('bake', share, doing),
  );
  lap('bake');
  const delivery = await Delivery.begin(request.out);
  try {
    context.report('handover', 0, 'writing textures');
    const occlusion = routing.materials.some((material) => material.sheet === s && material.look.occlusion);
    const textures = new TextureFiles(new Names(), delivery);
    const files = await writeSheet(decisions.sheets[s], baked, occlusion, textures, scope);
    const written = delivery.list();
    scope.checkpoint();
    await delivery.commit(request.files.map((file) => file.path));
    lap('write');
    return {
      sheet: sheetReport(layout.sheets[s], baked, mapPaths(files)),
      layout: { sheets: [layout.sheets[s]] },
      slots: routing.materials.map((material) => material.name),
      written,
      seconds,
    };
  } catch (error) {
    await delivery.discard();
    throw error;
  }
}
