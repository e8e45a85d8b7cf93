import { type TargetPart, targetParts } from '@wembrel/core/bake/target';
import type { SheetMaps } from '@wembrel/core/bake/transfer';
import { type MergeDecisions, PROOF_DIVISOR } from '@wembrel/core/decisions/decisions';
import { Cancelled, InputError } from '@wembrel/core/errors';
import { type Layout, layOut } from '@wembrel/core/layout/layout';
import { tangentsReady } from '@wembrel/core/mesh/tangents';
import { type Routing, route } from '@wembrel/core/plan/route';
import type { Model } from '@wembrel/core/scene/model';
import type { JobScope } from '../pool/job-scope.ts';
import { type OnProgress, reporter } from '../progress.ts';
import type { InputFile } from '../read/collect.ts';
import type { Images } from '../read/images.ts';
import { type BakedSheet, bakeSheet } from '../stages/bake.ts';
import { colourModels } from '../stages/colour.ts';
import { type Cut, cutModels } from '../stages/cut.ts';
import { type Repaired, repairModels } from '../stages/mend.ts';
import { type ReadFiles, surveyFiles } from '../stages/read.ts';

/** What a bake needs to know, of all sheets or of one. */
export interface BakeRequest {
  files: InputFile[];
  /** Pictures of the pile; those that no model names may go to slots by their names. */
  textures?: InputFile[];
  /** Folder for the results. */
  out: string;
  decisions: MergeDecisions;
  /** A quarter of the side, same layout. */
  proof?: boolean;
  /** Give up when any file is bad. */
  strict?: boolean;
  onProgress?: OnProgress;
  /** Told when a sheet's bake begins; its maps, in shared memory, fill while it goes on. */
  onMaps?: (sheet: string, maps: SheetMaps) => void;
}

/** Everything up to the bake: files read, slots routed, islands placed. */
export interface Prepared {
  read: ReadFiles;
  /** As they were read, before anything was mended. */
  originals: Model[];
  repaired: Repaired;
  cut: Cut;
  /** Slots whose colour went into vertices. */
  coloured: number;
  models: Model[];
  images: Images;
  routing: Routing;
  layout: Layout;
  targets: TargetPart[];
  byPart: ReadonlyMap<string, TargetPart>;
}

export const paddingOf = (decisions: MergeDecisions, margin: number): number => decisions.padding ?? Math.ceil(margin);

/**
 * Read, route, lay out.
 * @param lap called after each stage with its name @param onRead sees the models before anything is mended
 * @throws InputError for input that cannot be used @throws Cancelled when the pool's flag goes up
 */
export async function prepare(
  request: BakeRequest,
  scope: JobScope,
  lap: (stage: string) => void,
  onRead?: (models: Model[]) => void,
): Promise<Prepared> {
  const { decisions } = request;
  const report = reporter(request.onProgress);
  const read = await surveyFiles(request.files, scope, {
    textures: request.textures,
    reading: decisions.reading,
    faces: decisions.faces,
    onProgress: request.onProgress,
  });
  const { errors } = read.report;
  if (errors.length > 0 && request.strict) throw new InputError(errors[0].path, errors[0].message);
  if (read.models.length === 0) {
    if (errors.length > 0) throw new InputError(errors[0].path, errors[0].message);
    throw new InputError(request.out, 'there is no model to merge');
  }
  const originals = read.models.map((m) => m.model);
  onRead?.(originals);
  const repaired = await repairModels(read, decisions.repairs, scope);
  const coloured = await colourModels(read, decisions, scope);
  const cut = cutModels(read, decisions, scope);
  const models = read.models.map((m) => m.model);
  const { images } = read;
  lap('read');

  const routing = route(models, decisions, images.pictures);
  if (routing.materials.length === 0 && !decisions.keepAll)
    throw new InputError(
      models[0].path,
      `no slot can be merged: ${routing.keptApart.map((k) => `"${k.name}" ${k.reason}`).join('; ')}`,
    );
  lap('plan');

  const sizes = (i: string) => images.size(i);
  let layout: Layout;
  try {
    layout = layOut(models, routing, decisions, sizes, {
      cancelled: () => scope.cancelled,
      progress: (share, doing) => report('layout', share, doing),
    });
  } catch (error) {
    if (error instanceof InputError || error instanceof Cancelled) throw error;
    throw new InputError(models[0].path, error instanceof Error ? error.message : String(error));
  }
  await tangentsReady;
  scope.checkpoint();
  const targets = targetParts(models, routing, layout, sizes);
  const byPart = new Map(targets.map((t) => [`${t.model}:${t.part}`, t]));
  lap('layout');
  return { read, originals, repaired, cut, coloured, models, images, routing, layout, targets, byPart };
}

/** Bakes one sheet of what was prepared. */
export function bakePrepared(
  p: Prepared,
  request: BakeRequest,
  sheet: number,
  scope: JobScope,
  progress: (share: number, doing: string) => void,
): Promise<BakedSheet> {
  const { decisions } = request;
  return bakeSheet(
    {
      models: p.models,
      routing: p.routing,
      targets: p.byPart,
      samples: decisions.samples,
      pxScale: request.proof ? 1 / PROOF_DIVISOR : 1,
      padding: paddingOf(decisions, p.layout.sheets[sheet].margin),
    },
    p.layout.sheets[sheet],
    sheet,
    p.images,
    scope,
    progress,
    (maps) => request.onMaps?.(p.layout.sheets[sheet].name, maps),
  );
}
