import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { objectPatterns } from '@wembrel/core/decisions/object-patterns';
import { Cancelled, InputError, sentence } from '@wembrel/core/errors';
import { fittingNone, objectsOf, sheetForEachObject } from '@wembrel/core/plan/sheet-for-each';
import { groupIds } from '@wembrel/core/rays/maps/group-ids';
import { objectsOfParts } from '@wembrel/core/scene/object-names';
import { defaultPlan, planForEachObject } from '../plans/default-plan.ts';
import { basisOf, type PlanBasis } from '../plans/plan-basis.ts';
import type { JobScope } from '../pool/job-scope.ts';
import { stopwatch } from '../progress.ts';
import { SheetDressing } from '../recipes/dress-sheet.ts';
import { bake } from '../stages/bake.ts';
import { type Comparison, captureOriginal, compare, picturedModels } from '../stages/compare.ts';
import { type StageContext, stageContext } from '../stages/context.ts';
import type { HandedOver } from '../stages/hand-over.ts';
import { layOut } from '../stages/lay-out.ts';
import { type MendedFiles, mend } from '../stages/mend.ts';
import { type ReadFiles, read, separated } from '../stages/read.ts';
import { reshape, routeModels } from '../stages/route.ts';
import { jsonFile } from '../write/write-models.ts';
import { deliver, FIDELITY_FILE, UndeliverableFiles } from './deliver.ts';
import { fidelityFaults } from './faults.ts';
import type { MergeReport } from './report.ts';
import type { MergeRequest, MergeResult } from './request.ts';

/**
 * From files to files: read, mend, route, lay out, bake, hand over, compare. Nothing appears under its final name before
 * everything is written, read again and checked. The comparison comes after the delivery, in a file of its own; cancelling it leaves the delivery. Models that cannot be delivered are named in the report, and the others are
 * delivered without them.
 *
 * @throws InputError for input that cannot be used @throws Cancelled when the job is cancelled
 */
export async function merge(request: MergeRequest, scope: JobScope): Promise<MergeResult> {
  const errors: MergeReport['errors'] = [];
  let files = request.files;
  for (;;) {
    // What was found without some of the files, as a result of all.
    const ofAll = (result: MergeResult): MergeResult => ({
      ...result,
      report: { ...result.report, errors: [...result.report.errors, ...errors] },
      sources: result.sources.map((file) => request.files.indexOf(files[file])),
    });
    try {
      const onDelivered = async (result: MergeResult) => request.onDelivered?.(ofAll(result));
      return ofAll(await mergeAll({ ...request, files, onDelivered }, scope));
    } catch (error) {
      if (!(error instanceof UndeliverableFiles)) throw error;
      const [first] = error.failures;
      errors.push(...error.failures.map(({ file, reason }) => ({ path: file.name, message: reason })));
      const failed = new Set(error.failures.map(({ file }) => file));
      files = files.filter((file) => !failed.has(file));
      if (request.strict || files.length === 0) throw new InputError(first.file.name, first.reason);
    }
  }
}

async function mergeAll(asked: MergeRequest, scope: JobScope): Promise<MergeResult> {
  const context = stageContext(scope, asked.onProgress);
  const { seconds, lap } = stopwatch(scope);

  const found = await read(asked, context);
  const original = captureOriginal(
    picturedModels(found),
    asked.picture ?? asked.decisions.compareAt / (asked.proof ? 2 : 1),
  );
  const { decisions, mended } = await planned(asked, await mend(found, asked.decisions.repairs, scope), context);
  const request = { ...asked, decisions };
  const reshaped = await reshape(mended, decisions, context);
  lap('read');
  const routed = routeModels(reshaped, decisions);
  lap('plan');
  const dressing = sheetDressing(request, found);
  const laidOut = await layOut(routed, decisions, context, dressing);
  lap('layout');
  const baked = await bake(laidOut, decisions, { ...request, dressing }, context);
  lap('bake');

  const delivered = await deliver({ request, found, mended, reshaped, laidOut, baked, dressing }, context, lap);
  const resultWith = (compared: Comparison | null): MergeResult => ({
    report: {
      ...delivered.common,
      faults: compared ? [...delivered.common.faults, ...fidelityFaults(compared.fidelity)] : delivered.common.faults,
      fidelity: compared?.fidelity ?? null,
      seconds,
      peakBytes: process.resourceUsage().maxRSS * 1024,
      written: (compared ? [...delivered.written, FIDELITY_FILE] : delivered.written).sort(),
      errors: found.report.errors,
    },
    manifest: delivered.manifest,
    layout: laidOut.layout,
    worst: compared?.worst ?? null,
    sources: found.models.map((model) => request.files.indexOf(model.file)),
  });
  if (request.compare === false) return resultWith(null);
  await request.onDelivered?.(resultWith(null));
  const dressed = dressing?.models ?? new Set<number>();
  // What a recipe has changed is meant to look otherwise.
  if (dressed.size === found.models.length) return resultWith(null);
  const compared = await compareDelivered(request.out, delivered.handedOver, original, context, dressed);
  if (compared) lap('compare');
  return resultWith(compared);
}

/** What lays the project's recipes on its sheets; null where none is for a sheet. */
function sheetDressing({ decisions, recipePictures = [] }: MergeRequest, found: ReadFiles): SheetDressing | null {
  const onSheets = decisions.recipes.filter(({ sheets, cell }) => sheets.length > 0 && cell === null);
  if (onSheets.length === 0) return null;
  return new SheetDressing(onSheets, recipePictures, (models) =>
    groupIds(models, decisions.faces.groups, changedFiles(found)),
  );
}

/** The decisions with the plan that is made for what was read, where one is asked for, and the models as that plan has them. */
async function planned(
  { auto, decisions, mustFit = [] }: MergeRequest,
  mended: MendedFiles,
  context: StageContext,
): Promise<{ decisions: MergeDecisions; mended: MendedFiles }> {
  checkChosen(mended, [...decisions.only, ...mustFit]);
  if (!auto) return { decisions, mended };
  const basis = basisOf(mended, decisions, context);
  if (!auto.eachObject) return { decisions: await defaultPlan(basis, decisions, context, auto), mended };
  const each = sheetForEach(basis, decisions);
  const patterns = objectPatterns(each);
  const models = mended.models.map((entry) => ({ ...entry, model: separated(entry.model, patterns) }));
  const own = { ...mended, models };
  return { decisions: await planForEachObject(basisOf(own, each, context), each, context), mended: own };
}

/** @throws InputError when a pattern fits no object */
function checkChosen({ models }: MendedFiles, patterns: readonly string[]): void {
  if (patterns.length === 0) return;
  const drawn = models.map(({ model }) => ({
    path: model.path,
    objects: objectsOfParts(model.parts),
    look: '',
    islands: [],
  }));
  const [none] = fittingNone(patterns, drawn);
  if (none === undefined) return;
  const names = [...new Set(objectsOf(drawn).map((object) => object.name))];
  const some = names.slice(0, 8).join(', ');
  throw new InputError(none, `no object is called so; there are ${some}${names.length > 8 ? ', …' : ''}`);
}

/** @throws InputError when there are too many objects, or none */
function sheetForEach({ facts, read }: PlanBasis, decisions: MergeDecisions): MergeDecisions {
  try {
    return sheetForEachObject(decisions, facts);
  } catch (error) {
    throw new InputError(read.models[0].model.path, sentence(error));
  }
}

/** Models whose faces have other numbers than in their files. */
const changedFiles = (found: ReadFiles): Set<string> =>
  new Set(found.models.flatMap(({ model, edited }) => (edited ? [model.path] : [])));

/** Compares what was delivered with its original. @returns null when it is cancelled */
async function compareDelivered(
  out: string,
  { again }: HandedOver,
  original: ReturnType<typeof captureOriginal>,
  context: StageContext,
  dressed: ReadonlySet<number>,
): Promise<Comparison | null> {
  try {
    const compared = await compare(original, picturedModels(again), context, dressed);
    await writeFile(join(out, FIDELITY_FILE), jsonFile(compared.fidelity));
    return compared;
  } catch (error) {
    if (error instanceof Cancelled) return null;
    throw error;
  }
}
