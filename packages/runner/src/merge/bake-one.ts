import { protectedMip } from '@wembrel/core/decisions/sheets';
import { InputError } from '@wembrel/core/errors';
import { round } from '@wembrel/core/handover/manifest';
import { Names } from '@wembrel/core/handover/names';
import type { Layout } from '@wembrel/core/layout/layout';
import type { JobScope } from '../pool/job-scope.ts';
import { reporter, stopwatch } from '../progress.ts';
import { Delivery } from '../write/delivery.ts';
import { TextureFiles } from '../write/write-models.ts';
import { type MergeReport, mapPaths, writeSheet } from './merge.ts';
import { type BakeRequest, bakePrepared, prepare } from './prepare.ts';

export interface OneSheet {
  sheet: MergeReport['sheets'][number];
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
export async function bakeOne(request: BakeRequest, id: string, scope: JobScope): Promise<OneSheet> {
  const report = reporter(request.onProgress);
  const { seconds, lap } = stopwatch(scope);
  const prepared = await prepare(request, scope, lap);
  const { layout, routing } = prepared;
  const s = request.decisions.sheets.findIndex((d) => d.id === id);
  if (s < 0 || layout.sheets[s].plots.length === 0)
    throw new InputError(request.decisions.sheets[s]?.name ?? id, 'no slot goes to this sheet');
  const baked = await bakePrepared(prepared, request, s, scope, (share, doing) => report('bake', share, doing));
  lap('bake');
  const delivery = await Delivery.begin(request.out);
  try {
    report('handover', 0, 'writing textures');
    const { name, margin, scale } = layout.sheets[s];
    const occlusion = routing.materials.some((m) => m.sheet === s && m.look.occlusion);
    const files = await writeSheet(
      request.decisions.sheets[s],
      baked,
      occlusion,
      new TextureFiles(new Names(), delivery),
      scope,
    );
    const written = delivery.list();
    scope.checkpoint();
    await delivery.commit(request.files.map((f) => f.path));
    lap('write');
    return {
      sheet: {
        name,
        size: baked.maps.width,
        width: baked.maps.width,
        height: baked.maps.height,
        coverage: round(baked.coverage),
        maps: mapPaths(files),
        protectedMip: protectedMip(margin),
        scale: round(scale),
      },
      layout: { sheets: [layout.sheets[s]] },
      slots: routing.materials.map((m) => m.name),
      written,
      seconds,
    };
  } catch (error) {
    await delivery.discard();
    throw error;
  }
}
