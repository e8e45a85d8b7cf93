import { rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { objectPatterns } from '@wembrel/core/decisions/object-patterns';
import { chosenProfiles } from '@wembrel/core/decisions/profiles';
import { Cancelled, InputError, sentence } from '@wembrel/core/errors';
import { buildManifest, type Manifest } from '@wembrel/core/handover/manifest';
import { stem } from '@wembrel/core/handover/names';
import { tileTable } from '@wembrel/core/handover/tile-table';
import type { Layout } from '@wembrel/core/layout/layout';
import { fittingNone, objectsOf, sheetForEachObject } from '@wembrel/core/plan/sheet-for-each';
import { nameProblems } from '@wembrel/core/predict/required';
import { groupIds } from '@wembrel/core/rays/maps/group-ids';
import type { Model } from '@wembrel/core/scene/model';
import { objectsOfParts } from '@wembrel/core/scene/object-names';
import { tileCsv } from '@wembrel/core/tiles/tile-sheet';
import { type DefaultPlanOptions, defaultPlan, planForEachObject } from '../plans/default-plan.ts';
import { basisOf, type PlanBasis } from '../plans/plan-basis.ts';
import type { JobScope } from '../pool/job-scope.ts';
import { type OnProgress, stopwatch } from '../progress.ts';
import type { InputFile } from '../read/collect.ts';
import { type SheetDressed, SheetDressing } from '../recipes/dress-sheet.ts';
import { type BakedSheet, type BakeOptions, bake, paddingOf } from '../stages/bake.ts';
import { type Comparison, captureOriginal, compare, picturedModels, type WorstPictures } from '../stages/compare.ts';
import { type PipelineInput, type StageContext, stageContext } from '../stages/context.ts';
import { type HandedOver, handOver } from '../stages/hand-over.ts';
import { type LaidOut, layOut } from '../stages/lay-out.ts';
import { type MendedFiles, mend } from '../stages/mend.ts';
import { type ReadFiles, read, separated } from '../stages/read.ts';
import { reshape, routeModels } from '../stages/route.ts';
import { UndeliverableModels } from '../stages/undeliverable.ts';
import { shapesOfModels, writeCollision } from '../stages/write-collision.ts';
import { writeCopies } from '../stages/write-copies.ts';
import { type WrittenProfile, writeProfiles } from '../stages/write-profiles.ts';
import { mapPaths } from '../stages/write-sheet.ts';
import { Delivery } from '../write/delivery.ts';
import { jsonFile, TEXTURE_FOLDER } from '../write/write-models.ts';
import { sheetDensity } from './density.ts';
import { type Fault, faceFaults, fidelityFaults, INVALID_SOURCE, layoutFaults } from './faults.ts';
import { type MergeReport, roundedDensity, sheetReport } from './report.ts';

export interface MergeRequest extends PipelineInput, BakeOptions {
  /** Folder for the results. */
  out: string;
  /** Side of the pictures that are compared, px; else as decided, for a proof half of it. */
  picture?: number;
  /** The decisions' sheets and routes are only where a plan is begun from: one is made for what is read; see `defaultPlan`. */
  auto?: DefaultPlanOptions;
  /** Patterns of objects, besides those that alone are merged, that some object has to fit. */
  mustFit?: readonly string[];
  /** Pictures that the recipes of the decisions name. */
  recipePictures?: readonly InputFile[];
  /** Whether the result is compared with its original, once it is delivered; by default it is. */
  compare?: boolean;
  /** Told once everything is delivered and the comparison begins, with all that is known without it. */
  onDelivered?: (result: MergeResult) => Promise<void>;
  onProgress?: OnProgress;
}

export interface MergeResult {
  report: MergeReport;
  manifest: Manifest;
  layout: Layout;
  /** Null where it was not compared. */
  worst: WorstPictures | null;
  /** For each merged model its position in the request's files. */
  sources: number[];
}

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

/** Files whose models stand in the way of a delivery. */
class UndeliverableFiles extends Error {
  constructor(readonly failures: readonly { file: InputFile; reason: string }[]) {
    super('some models cannot be delivered');
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
  const onSheets = decisions.recipes.filter(({ sheets, cell }) => sheets.length > 0 && cell === null);
  const dressing =
    onSheets.length > 0
      ? new SheetDressing(onSheets, asked.recipePictures ?? [], (models) =>
          groupIds(models, decisions.faces.groups, changedFiles(found)),
        )
      : null;
  const laidOut = await layOut(routed, decisions, context, dressing);
  lap('layout');
  const baked = await bake(laidOut, decisions, { ...request, dressing }, context);
  lap('bake');
  // Handing over rebuilds the models.
  const density = sheetDensity(laidOut);
  const faults: Fault[] = [...layoutFaults(laidOut), ...faceFaults(found, decisions), ...(dressing?.faults ?? [])];

  const shapes = shapesOfModels(laidOut.models, decisions.collision, scope);

  const delivery = await Delivery.begin(request.out);
  try {
    const sources = found.models.map((model) => model.file);
    const handedOver = await handOver(laidOut, baked, decisions, { delivery, sources }, context);
    faults.push(...sourceFaults(found, handedOver), ...handedOver.withoutUvs.map(uvFault));
    lap('handover');
    faults.push(...nameFaults(request, handedOver, delivery));

    const bakedSheets = [...baked].map(([s, sheet]) => ({ name: laidOut.layout.sheets[s].name, sheet }));
    const { profiles, failures } = await writeProfiles(
      {
        profiles: chosenProfiles(decisions.profiles),
        sheets: bakedSheets,
        proof: request.proof ?? false,
        delivery,
        onImage: (share, file) => context.report('handover', 0.9 + 0.1 * share, `writing ${file}`),
      },
      scope,
    );
    faults.push(...profiles.flatMap(lossFaults), ...failures.map(imageFault));
    await writeCopies(handedOver.again.models, handedOver.modelFiles, decisions.modelCopies, delivery, scope);
    const collision = await writeCollision(shapes, handedOver.modelFiles, decisions.collision.as, delivery);
    const described = {
      ...manifestOf(laidOut, baked, handedOver, request),
      ...(collision.length > 0 ? { collision } : {}),
      ...(profiles.length > 0 ? { profiles } : {}),
    };
    const common = writtenReport({
      found,
      mended,
      reshaped,
      laidOut,
      baked,
      handedOver,
      density,
      faults,
      dressed: dressing?.dressed ?? [],
      manifest: described,
    });
    await writeTileTables(described, handedOver, delivery);
    await delivery.write('report.json', jsonFile(common));
    // Last, since it names all others.
    const manifest: Manifest = { ...described, files: delivery.hashes() };
    await delivery.write('manifest.json', jsonFile(manifest));
    const written = delivery.list();
    scope.checkpoint();
    await delivery.commit(request.files.map((file) => file.path));
    lap('write');
    // That of an earlier delivery says nothing of this one.
    await rm(join(request.out, FIDELITY_FILE), { force: true });
    const resultWith = (compared: Comparison | null): MergeResult => ({
      report: {
        ...common,
        faults: compared ? [...faults, ...fidelityFaults(compared.fidelity)] : faults,
        fidelity: compared?.fidelity ?? null,
        seconds,
        peakBytes: process.resourceUsage().maxRSS * 1024,
        written: (compared ? [...written, FIDELITY_FILE] : written).sort(),
        errors: found.report.errors,
      },
      manifest,
      layout: laidOut.layout,
      worst: compared?.worst ?? null,
      sources: found.models.map((model) => request.files.indexOf(model.file)),
    });
    if (request.compare === false) return resultWith(null);
    await request.onDelivered?.(resultWith(null));
    const dressed = dressing?.models ?? new Set<number>();
    // What a recipe has changed is meant to look otherwise.
    if (dressed.size === found.models.length) return resultWith(null);
    const compared = await compareDelivered(request.out, handedOver, original, context, dressed);
    if (compared) lap('compare');
    return resultWith(compared);
  } catch (error) {
    await delivery.discard();
    if (!(error instanceof UndeliverableModels)) throw error;
    throw new UndeliverableFiles(
      error.failures.map(({ model, reason }) => ({ file: found.models[model].file, reason })),
    );
  }
}

/** What each stage gave, as far as the report says it. */
interface Merged {
  found: ReadFiles;
  mended: Awaited<ReturnType<typeof mend>>;
  reshaped: Awaited<ReturnType<typeof reshape>>;
  laidOut: LaidOut;
  baked: ReadonlyMap<number, BakedSheet>;
  handedOver: HandedOver;
  density: ReturnType<typeof sheetDensity>;
  faults: Fault[];
  dressed: SheetDressed[];
  manifest: Manifest;
}

/** The report that lies in the delivery: all that does not depend on how long it took or how it compares. */
const writtenReport = ({ found, laidOut, handedOver, manifest, density, ...merged }: Merged) => ({
  before: found.report.totals,
  after: handedOver.again.report.totals,
  sheets: [...merged.baked].map(([s, sheet], i) =>
    sheetReport(laidOut.layout.sheets[s], sheet, manifest.sheets[i].maps),
  ),
  keptApart: manifest.keptApart,
  joinOffer: laidOut.routing.joinOffer,
  edited: found.models.flatMap(({ file, edited }) => (edited ? [{ path: file.name, edits: edited.reports }] : [])),
  repaired: merged.mended.repaired,
  cut: merged.reshaped.cut,
  coloured: merged.reshaped.coloured,
  density: density && roundedDensity(density),
  faults: merged.faults,
  recipes: merged.dressed,
});

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

/** The comparison of a delivery, in the delivery. */
const FIDELITY_FILE = 'fidelity.json';

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

/** What was wrong in the sources: put right, or still there. */
function sourceFaults({ models }: ReadFiles, { sourceErrors }: HandedOver): Fault[] {
  const fault = (code: string, model: number, message: string): Fault => ({
    code,
    subject: models[model].file.name,
    message,
  });
  return [
    ...models.flatMap(({ model }, i) =>
      model.mended.map((what) => fault('source', i, `put right in the result: ${what}`)),
    ),
    ...sourceErrors.map(({ model, reason }) => fault(INVALID_SOURCE, model, reason)),
  ];
}

const imageFault = ({ file, reason }: { file: string; reason: string }): Fault => ({
  code: 'image',
  subject: file,
  message: `it is not written: ${reason}`,
});

/** dB below which an image that gives up exact values has given up too much. */
const LEAST_PSNR = 30;

/** Images of a profile that do not come back as they were baked. */
const lossFaults = ({ name, images }: WrittenProfile): Fault[] =>
  images.flatMap(({ file, loss: { psnr } }) =>
    psnr !== null && psnr < LEAST_PSNR
      ? [
          {
            code: 'image loss',
            subject: file,
            message: `profile "${name}": ${psnr.toFixed(1)} dB when it is read back`,
          },
        ]
      : [],
  );

const uvFault = (slot: string): Fault => ({
  code: 'no UVs',
  subject: slot,
  message: 'its slot has textures, but it has no UVs for them; all zero ones were added so that the file can be read',
});

/** Names of the slots that a model draws with. */
const usedSlots = (model: Model): string[] => [...new Set(model.parts.map((part) => model.slots[part.slot].name))];

/** Required names that are not in what was written. */
function nameFaults({ decisions }: MergeRequest, { again }: HandedOver, delivery: Delivery): Fault[] {
  const slots = [...new Set(again.models.flatMap((model) => usedSlots(model.model)))];
  const textures = delivery.list().flatMap((file) => (file.startsWith(`${TEXTURE_FOLDER}/`) ? [stem(file)] : []));
  return nameProblems(decisions, { slots, textures }, !decisions.embed).map(({ name, message }) => ({
    code: 'required name',
    subject: name,
    message,
  }));
}

function manifestOf(
  { models, routing, layout }: LaidOut,
  baked: ReadonlyMap<number, BakedSheet>,
  { modelFiles, sheets }: HandedOver,
  { decisions }: MergeRequest,
): Manifest {
  return buildManifest({
    models,
    files: modelFiles,
    names: modelFiles.map((modelFile) => stem(modelFile)),
    routing,
    layout,
    decided: decisions.sheets,
    baked: [...baked].map(([s, { coverage }]) => ({
      sheet: s,
      padding: paddingOf(decisions, layout.sheets[s].margin),
      coverage,
      maps: mapPaths(sheets.get(s)!),
    })),
  });
}

/** The table of every tile sheet, as JSON and CSV. */
async function writeTileTables(manifest: Manifest, { names }: HandedOver, delivery: Delivery): Promise<void> {
  for (const sheet of manifest.sheets) {
    if (sheet.kind !== 'tile') continue;
    const tiles = tileTable(sheet);
    const { name, width, height, settings } = sheet;
    const table = { name, width, height, cell: settings.cell, tiles };
    await delivery.write(names.claim(`${name}_tiles`, '.json'), jsonFile(table));
    await delivery.write(names.claim(`${name}_tiles`, '.csv'), new TextEncoder().encode(tileCsv(tiles)));
  }
}
