import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { chosenProfiles } from '@wembrel/core/decisions/profiles';
import { buildManifest, type Manifest } from '@wembrel/core/handover/manifest';
import { stem } from '@wembrel/core/handover/names';
import { tileTable } from '@wembrel/core/handover/tile-table';
import { nameProblems } from '@wembrel/core/predict/required';
import type { Model } from '@wembrel/core/scene/model';
import { tileCsv } from '@wembrel/core/tiles/tile-sheet';
import type { InputFile } from '../read/collect.ts';
import type { SheetDressed, SheetDressing } from '../recipes/dress-sheet.ts';
import { type BakedSheet, paddingOf } from '../stages/bake.ts';
import type { StageContext } from '../stages/context.ts';
import { type HandedOver, handOver } from '../stages/hand-over.ts';
import type { LaidOut } from '../stages/lay-out.ts';
import type { mend } from '../stages/mend.ts';
import type { ReadFiles } from '../stages/read.ts';
import type { reshape } from '../stages/route.ts';
import { UndeliverableModels } from '../stages/undeliverable.ts';
import { shapesOfModels, writeCollision } from '../stages/write-collision.ts';
import { writeCopies } from '../stages/write-copies.ts';
import { type WrittenProfile, writeProfiles } from '../stages/write-profiles.ts';
import { mapPaths } from '../stages/write-sheet.ts';
import { Delivery } from '../write/delivery.ts';
import { jsonFile, TEXTURE_FOLDER } from '../write/write-models.ts';
import { sheetDensity } from './density.ts';
import { type Fault, faceFaults, INVALID_SOURCE, layoutFaults } from './faults.ts';
import { roundedDensity, sheetReport } from './report.ts';
import type { MergeRequest } from './request.ts';

/** Files whose models stand in the way of a delivery. */
export class UndeliverableFiles extends Error {
  constructor(readonly failures: readonly { file: InputFile; reason: string }[]) {
    super('some models cannot be delivered');
  }
}

/** The comparison of a delivery, in the delivery. */
export const FIDELITY_FILE = 'fidelity.json';

/** What the stages before a delivery gave. */
interface BakedFiles extends Pick<Merged, 'found' | 'mended' | 'reshaped' | 'laidOut' | 'baked'> {
  request: MergeRequest;
  dressing: SheetDressing | null;
}

/** A delivery that stands under its final name. */
interface Delivered {
  handedOver: HandedOver;
  manifest: Manifest;
  common: ReturnType<typeof writtenReport>;
  /** Paths of its files. */
  written: string[];
}

/** Writes a delivery, checks it, and puts it under its final name. @throws UndeliverableFiles @throws Cancelled */
export async function deliver(
  files: BakedFiles,
  context: StageContext,
  lap: (stage: string) => void,
): Promise<Delivered> {
  const { request, found } = files;
  const delivery = await Delivery.begin(request.out);
  try {
    const { described, ...delivered } = await writeAll(files, delivery, context, lap);
    // Last, since it names all others.
    const manifest: Manifest = { ...described, files: delivery.hashes() };
    await delivery.write('manifest.json', jsonFile(manifest));
    const written = delivery.list();
    context.scope.checkpoint();
    await delivery.commit(request.files.map((file) => file.path));
    lap('write');
    // That of an earlier delivery says nothing of this one.
    await rm(join(request.out, FIDELITY_FILE), { force: true });
    return { ...delivered, manifest, written };
  } catch (error) {
    await delivery.discard();
    if (!(error instanceof UndeliverableModels)) throw error;
    throw new UndeliverableFiles(
      error.failures.map(({ model, reason }) => ({ file: found.models[model].file, reason })),
    );
  }
}

/** Writes everything but the manifest. */
async function writeAll(files: BakedFiles, delivery: Delivery, context: StageContext, lap: (stage: string) => void) {
  const { request, found, laidOut, baked, dressing } = files;
  const { decisions } = request;
  const { scope } = context;
  // Handing over rebuilds the models.
  const density = sheetDensity(laidOut);
  const faults: Fault[] = [...layoutFaults(laidOut), ...faceFaults(found, decisions), ...(dressing?.faults ?? [])];
  const shapes = shapesOfModels(laidOut.models, decisions.collision, scope);
  const sources = found.models.map((model) => model.file);
  const handedOver = await handOver(laidOut, baked, decisions, { delivery, sources }, context);
  faults.push(...sourceFaults(found, handedOver), ...handedOver.withoutUvs.map(uvFault));
  lap('handover');
  faults.push(...nameFaults(request, handedOver, delivery));
  const { profiles, failures } = await writeProfiles(
    {
      profiles: chosenProfiles(decisions.profiles),
      sheets: [...baked].map(([s, sheet]) => ({ name: laidOut.layout.sheets[s].name, sheet })),
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
  const dressed = dressing?.dressed ?? [];
  const common = writtenReport({ ...files, handedOver, density, faults, dressed, manifest: described });
  await writeTileTables(described, handedOver, delivery);
  await delivery.write('report.json', jsonFile(common));
  return { handedOver, described, common };
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
