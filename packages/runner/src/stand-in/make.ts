import { join } from 'node:path';
import { PROOF_DIVISOR } from '@wembrel/core/decisions/decisions';
import type { Profile } from '@wembrel/core/decisions/profiles';
import { RaySettings } from '@wembrel/core/decisions/ray-decisions';
import type { StandInSpec } from '@wembrel/core/decisions/stand-in';
import { Cancelled, InputError } from '@wembrel/core/errors';
import { Names, stem } from '@wembrel/core/handover/names';
import { type RaySheetNeeds, raySheetNeeds, sheetMapsOf } from '@wembrel/core/rays/maps/sheet-maps';
import { pairing } from '@wembrel/core/rays/pairing/pairings';
import type { Model } from '@wembrel/core/scene/model';
import { type FinishedMesh, finishedMesh } from '@wembrel/core/stand-in/document';
import { type Level, levelsOfDetail } from '@wembrel/core/stand-in/levels';
import { pxPerMetre } from '@wembrel/core/stand-in/outline-error';
import type { JobScope } from '../pool/job-scope.ts';
import { type OnProgress, type Progress, stopwatch } from '../progress.ts';
import { bakeRays, type RayBake } from '../rays/bake-rays.ts';
import { bakedLooks, bakedSource, objectRefs, slotsApart } from '../rays/whole-model.ts';
import type { InputFile } from '../read/collect.ts';
import type { BakedSheet } from '../stages/bake.ts';
import { captureOriginal, picturedModels } from '../stages/compare.ts';
import { type ReadFiles, type ReadOptions, readFiles } from '../stages/read.ts';
import { type WrittenProfile, writeProfiles } from '../stages/write-profiles.ts';
import { mapPaths } from '../stages/write-sheet.ts';
import { Delivery } from '../write/delivery.ts';
import { jsonFile, TextureFiles } from '../write/write-models.ts';
import { cardDistance, describe, type Made, type Shaped, type Written } from './describe.ts';
import { cardName, type LaidFlat, layFlat } from './lay-out.ts';
import { manifestOf } from './manifest.ts';
import { type StandInFidelity, standInFidelity } from './measure.ts';
import type { StandInModel, StandInReport } from './report.ts';
import {
  type HeavySurface,
  heavySurface,
  hullShape,
  seenFromOutside,
  simplifiedShape,
  viewingDistance,
} from './shape.ts';
import { onlyKept, refuseWhatMoves } from './source.ts';
import { type StandInFiles, writeLevel, writeMaps } from './write.ts';

/** Sides of the pictures in which a stand-in is held against its source, px: as it is seen, within these. */
const LEAST_PICTURE = 64;
const MOST_PICTURE = 540;

export interface StandInOptions {
  files: InputFile[];
  out: string;
  spec: StandInSpec;
  /** Textures inside each GLB. */
  embed: boolean;
  profiles: readonly Profile[];
  /** A quarter of the side, one sample, no levels, not compared. */
  proof: boolean;
  compare: boolean;
  reading?: ReadOptions['reading'];
  faces?: ReadOptions['faces'];
  strict?: boolean;
  onProgress?: OnProgress;
}

/** What all models of a run share. */
interface Run {
  options: StandInOptions;
  scope: JobScope;
  delivery: Delivery;
  names: Names;
  textures: TextureFiles;
  images: ReadFiles['images'];
  report: StandInReport;
  profiles: Map<string, WrittenProfile>;
  lap: (stage: string) => void;
}

/**
 * Makes a light model that draws once from each heavy one: shape, UVs, rays for every channel, levels of detail, files, comparison. A model that
 * cannot be made is named in `errors`, the others go on.
 * @throws InputError when none can be made, or with `strict` @throws Cancelled
 */
export async function makeStandIns(options: StandInOptions, scope: JobScope): Promise<StandInReport> {
  const { seconds, lap } = stopwatch(scope);
  const read = await readFiles(options.files, scope, {
    reading: options.reading,
    faces: options.faces,
    onProgress: (progress) => options.onProgress?.({ ...progress, share: progress.share * 0.5 }),
  });
  addLap(seconds, lap, 'read');
  const errors = [...read.report.errors];
  const [first] = errors;
  if (first && (options.strict || read.models.length === 0)) throw new InputError(first.path, first.message);
  if (read.models.length === 0) throw new InputError('stand-in', 'there is no model that can be read');
  const delivery = await Delivery.begin(options.out);
  const report: StandInReport = { models: [], sheets: [], seconds, peakBytes: 0, written: [], faults: [], errors };
  const names = new Names();
  names.claim('manifest', '.json');
  const run: Run = {
    options,
    scope,
    delivery,
    names,
    textures: new TextureFiles(new Names(), delivery),
    images: read.images,
    report,
    profiles: new Map(),
    lap: (stage) => addLap(seconds, lap, stage),
  };
  try {
    for (const [i, { model }] of read.models.entries()) {
      const progress = (stage: Progress['stage'], within: number, doing: string) =>
        options.onProgress?.({
          stage,
          share: 0.1 + (0.9 * (i + within)) / read.models.length,
          doing: `${stem(model.path)}: ${doing}`,
        });
      try {
        report.models.push(await makeOne(model, run, progress));
      } catch (error) {
        if (error instanceof Cancelled || options.strict || !(error instanceof InputError)) throw error;
        errors.push({ path: error.path, message: error.reason });
      }
    }
    if (report.models.length === 0) throw new InputError(errors[0].path, errors[0].message);
    report.peakBytes = process.resourceUsage().maxRSS * 1024;
    await delivery.write('manifest.json', jsonFile(manifestOf(report, delivery, run.profiles)));
    await delivery.commit(options.files.map((file) => file.path));
    report.written = delivery.list();
    run.lap('write');
    return report;
  } catch (error) {
    await delivery.discard();
    throw error;
  }
}

/** Seconds of all models together. */
function addLap(seconds: Record<string, number>, lap: (stage: string) => void, stage: string): void {
  const before = seconds[stage] ?? 0;
  lap(stage);
  seconds[stage] = Number((seconds[stage] + before).toFixed(3));
}

type OnStage = (stage: Progress['stage'], within: number, doing: string) => void;

async function makeOne(model: Model, run: Run, progress: OnStage): Promise<StandInModel> {
  const { options, scope } = run;
  refuseWhatMoves(model);
  const name = stem(run.names.claim(stem(model.path), '.glb'));
  const apart = slotsApart(model, options.spec.apart);
  const source = bakedSource(model, apart);
  progress('layout', 0, 'looking at its outline');
  const heavy = heavySurface(source);
  const shaped = await shapeOf(model, heavy, run, progress);
  const flat = layFlat(name, `${model.path} (stand-in)`, shaped.shape.mesh, {
    as: options.spec.as,
    cards: options.proof ? 0 : options.spec.cards,
    size: options.spec.size,
    margin: options.spec.margin,
    cancelled: () => scope.cancelled,
    progress: (share) => progress('layout', 0.2 + 0.15 * share, 'unwrapping'),
  });
  run.lap('unwrap');
  const needs = raySheetNeeds(bakedLooks(model, apart), flat.cards !== null);
  const seen = shaped.keep ? onlyKept(source, heavy.mesh, shaped.keep) : source;
  const bake = await bakeOnto(flat, seen, needs, run, progress);
  const sheet: BakedSheet = { maps: sheetMapsOf(bake.maps, needs), needs, coverage: flat.report.coverage };
  run.lap('bake');
  progress('handover', 0.72, 'levels of detail');
  const all = levelsOfDetail(finishedMesh(flat.model.parts[0]), options.proof ? [] : options.spec.levels);
  const far = cardDistance(flat, heavy);
  // From where a card will do, no level is worth its triangles.
  const levels = all.filter(({ distance }) => far === null || distance < far);
  run.lap('levels');
  progress('handover', 0.78, 'writing');
  const card = flat.cards ? finishedMesh(flat.model.parts[1]) : null;
  const written = await writeAll({ name, source: model, apart, needs, sheet }, levels, card, run);
  run.lap('write');
  const made: Made = { model, apart, heavy, shaped, flat, bake, levels, written };
  const distance = viewingDistance(heavy, options.spec.distance);
  const report = describe(made, distance);
  run.report.faults.push(...bake.faults);
  run.lap('measure');
  if (options.compare && !options.proof) report.fidelity = await compared(made, distance, run, progress);
  run.lap('compare');
  return report;
}

async function shapeOf(
  model: Model,
  heavy: HeavySurface,
  { options, scope, lap }: Run,
  progress: OnStage,
): Promise<Shaped> {
  progress('layout', 0.03, 'finding faces that nothing from outside sees');
  const keep = options.spec.keepHidden ? null : await seenFromOutside(heavy, scope);
  lap('hidden');
  const { spec } = options;
  progress('layout', 0.1, spec.as === 'hull' ? 'wrapping' : 'simplifying');
  const shape =
    spec.as === 'hull'
      ? await hullShape(model, heavy, keep, spec, scope)
      : await simplifiedShape(heavy, keep, spec, scope);
  if (shape.mesh.indices.length === 0) throw new InputError(model.path, 'so few triangles leave nothing of it');
  lap('shape');
  return { shape, keep };
}

/** Rays from the light model to its source, for every channel that some slot has. */
async function bakeOnto(
  { model: low, cards }: LaidFlat,
  source: Model,
  needs: RaySheetNeeds,
  run: Run,
  progress: OnStage,
): Promise<RayBake> {
  const { options, scope, images } = run;
  const settings = RaySettings.parse({
    maps: needs.maps,
    size: options.spec.size,
    samples: options.proof ? 1 : options.spec.samples,
    margin: 0,
    padding: Math.max(options.spec.margin, 16),
  });
  const [body, card] = objectRefs(low);
  const high = objectRefs(source);
  const pairings = [pairing(stem(source.path), high, [body])];
  if (cards)
    pairings.push({
      ...pairing(`${stem(source.path)}, card`, high, [card]),
      outward: cards.reach,
      inward: cards.reach,
    });
  return bakeRays({ models: [source, low], pairings, settings, images }, scope, {
    pxScale: options.proof ? 1 / PROOF_DIVISOR : 1,
    onProgress: (share, doing) => progress('bake', 0.35 + 0.37 * share, doing),
  });
}

/** Maps, one model for each level, and the images of profiles. */
async function writeAll(
  files: StandInFiles,
  levels: readonly Level[],
  card: FinishedMesh | null,
  run: Run,
): Promise<Written> {
  const { options, scope, delivery, textures, report } = run;
  const maps = await writeMaps(files, options.spec.margin, options.embed ? null : textures, scope);
  const paths: string[] = [];
  for (const [i, { mesh }] of levels.entries()) {
    const file = i === 0 ? `${files.name}.glb` : run.names.claim(`${files.name}_LOD${i}`, '.glb');
    await writeLevel(files, { mesh, file, maps }, { delivery, textures, embed: options.embed });
    paths.push(file);
  }
  let cardFile: string | null = null;
  if (card) {
    cardFile = run.names.claim(cardName(files.name), '.glb');
    await writeLevel(
      files,
      { mesh: card, file: cardFile, maps, card: true },
      { delivery, textures, embed: options.embed },
    );
  }
  const profiles = await writeProfiles(
    { profiles: options.profiles, sheets: [{ name: files.name, sheet: files.sheet }], proof: options.proof, delivery },
    scope,
  );
  for (const profile of profiles.profiles) {
    const known = run.profiles.get(profile.name);
    if (known) known.images.push(...profile.images);
    else run.profiles.set(profile.name, profile);
  }
  report.errors.push(...profiles.failures.map(({ file, reason }) => ({ path: file, message: reason })));
  report.sheets.push({ name: files.name, size: files.sheet.maps.width, maps: mapPaths(maps) });
  return { levels: paths, card: cardFile, maps: mapPaths(maps) };
}

/** The stand-in as it was written and read again, beside its source, at the size that it has from the viewing distance. */
async function compared(
  { model, heavy, written }: Made,
  distance: number,
  { delivery, scope, images }: Run,
  progress: OnStage,
): Promise<StandInFidelity> {
  // What the rays read is not what pictures are drawn with.
  images.forgetLevels();
  const px = Math.round(heavy.diagonal * pxPerMetre(distance));
  const original = captureOriginal({ models: [model], images }, Math.max(LEAST_PICTURE, Math.min(MOST_PICTURE, px)));
  const [path] = written.levels;
  const again = await readFiles([{ name: path, path: join(delivery.staging, path) }], scope);
  const [error] = again.report.errors;
  if (error) throw new InputError(path, `the result could not be read again: ${error.message}`);
  return standInFidelity(original, picturedModels(again), scope, (share) =>
    progress('compare', 0.82 + 0.18 * share, 'comparing'),
  );
}
