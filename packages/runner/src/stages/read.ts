import { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { objectPatterns } from '@wembrel/core/decisions/object-patterns';
import { ReadingDecisions, SourceOptions } from '@wembrel/core/decisions/reading';
import { InputError } from '@wembrel/core/errors';
import type { Finding } from '@wembrel/core/findings/finding';
import type { TextureBytes } from '@wembrel/core/image/texture-memory';
import { separateObjects } from '@wembrel/core/repair/separate-objects';
import type { Model } from '@wembrel/core/scene/model';
import type { LooseTexture } from '@wembrel/core/survey/facts';
import { type FileFigures, fileFigures, type Totals, totals } from '@wembrel/core/survey/figures';
import { type PictureWork, pictureWork } from '../pictures/work.ts';
import type { JobScope } from '../pool/job-scope.ts';
import { sideBySide } from '../pool/side-by-side.ts';
import type { OnProgress } from '../progress.ts';
import { reporter } from '../progress.ts';
import type { InputFile } from '../read/collect.ts';
import { type EditedModel, editFaces } from '../read/edit-faces.ts';
import { imageKey } from '../read/image-keys.ts';
import { Images } from '../read/images.ts';
import { loadModel, rereadModel } from '../read/load.ts';
import { assignLoose } from '../read/loose-textures.ts';
import { slotsToCome } from '../read/slots-to-come.ts';
import type { PipelineInput, StageContext } from './context.ts';

export interface FileReport {
  path: string;
  ok: boolean;
  error?: string;
  drawCalls: number;
  slots: number;
  triangles: number;
  gpuVertices: number;
  textures: number;
  textureBytes?: TextureBytes;
  /** Names of the slots in use, each with the triangles of its parts. */
  slotNames?: string[];
  notes?: string[];
}

/** The document of `wembrel survey --json`. */
export interface SurveyReport {
  files: FileReport[];
  totals: Totals;
  findings: Finding[];
  errors: { path: string; message: string }[];
}

export interface ReadModel {
  model: Model;
  figures: FileFigures;
  file: InputFile;
  /** What edits of faces did to it; null: nothing. */
  edited: Omit<EditedModel, 'model'> | null;
}

export interface ReadFiles {
  models: ReadModel[];
  images: Images;
  loose: LooseTexture[];
  report: SurveyReport;
}

export interface ReadOptions {
  passes?: number;
  onProgress?: OnProgress;
  /** Pictures that may belong to slots, by their names. */
  textures?: InputFile[];
  reading?: ReadingDecisions;
  /** What is done to faces before anything is looked at. */
  faces?: FaceDecisions;
  /** Objects that get slots of their own; see `separateObjects`. */
  separate?: readonly string[];
  /** Sees models that have such edits before, by their position among the files. */
  beforeEdits?: (model: Model, file: number) => Promise<void>;
  /** See `Images`. */
  keepBytes?: number;
  /** Sees every file as soon as it was read, by its position among them, or why it cannot be. */
  onRead?: (file: number, result: Result, images: Images) => Promise<void>;
}

/** A file as it was read, or why it cannot be. */
type Result = Model | InputError;

/** What reading the files of one run goes on with. */
interface Reading {
  scope: JobScope;
  images: Images;
  work: PictureWork;
  reading: ReadingDecisions;
  options: ReadOptions;
}

/** Reads all files, as many at a time as there are threads; a bad one is reported and the others go on. */
export async function readFiles(files: InputFile[], scope: JobScope, options: ReadOptions = {}): Promise<ReadFiles> {
  const run: Reading = {
    scope,
    images: new Images(scope, options.keepBytes),
    work: pictureWork(scope),
    reading: options.reading ?? ReadingDecisions.parse({}),
    options,
  };
  const { images, work, reading } = run;
  const results = await loadAll(files, run);
  const loose = await assignLoose(files, results, {
    textures: options.textures ?? [],
    reading,
    work,
    again: (i, read) => loadInto(results, i, run, read),
  });
  const left = new Set(loose.filter((row) => row.to.length === 0).map((row) => row.path));
  const faces = options.faces ?? NO_FACES;
  const readSoFar = results.map((result) => (result instanceof InputError ? null : result));
  const coming = await slotsToCome({
    models: readSoFar,
    faces,
    textures: (options.textures ?? []).filter((texture) => left.has(texture.name)),
    reading,
    work,
  });
  if (coming.model) await images.add(coming.model);
  const edited = await editFaces({
    models: readSoFar,
    coming: coming.model,
    decisions: faces,
    images,
    scope,
    before: options.beforeEdits,
  });
  for (const [i, editedModel] of edited.entries()) {
    if (!editedModel) continue;
    results[i] = editedModel.model;
    // Gradients have pictures that no file had.
    await images.add(editedModel.model);
  }
  const foundLater = new Map(coming.rows.map((row) => [row.path, row]));
  return {
    ...reported(files, results, edited, run),
    images,
    loose: loose.map((row) => foundLater.get(row.path) ?? row),
  };
}

async function loadAll(files: InputFile[], run: Reading): Promise<Result[]> {
  const { scope, images, work, reading, options } = run;
  const report = reporter(options.onProgress);
  const results: Result[] = new Array(files.length);
  let done = 0;
  await sideBySide(files.length, scope.threads + 1, async (i) => {
    const file = files[i];
    scope.checkpoint();
    await loadInto(results, i, run, () => loadModel(file, { source: optionsOf(reading, file), work }));
    await options.onRead?.(i, results[i], images);
    report('read', ++done / files.length, `reading ${file.name}`);
  });
  return results;
}

/** Reads one file with its pictures, and keeps what came of it. */
async function loadInto(results: Result[], i: number, { images }: Reading, read: () => Promise<Model>): Promise<void> {
  try {
    const model = await read();
    await images.add(model);
    results[i] = model;
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    results[i] = error;
  }
}

/** The models with their figures, and the rows of all files. */
function reported(
  files: InputFile[],
  results: readonly Result[],
  edited: readonly (Omit<EditedModel, 'model'> | null)[],
  { images, options }: Reading,
): Pick<ReadFiles, 'models' | 'report'> {
  const models: ReadModel[] = [];
  const rows: FileReport[] = [];
  const errors: SurveyReport['errors'] = [];
  files.forEach((file, i) => {
    const model = results[i];
    if (model instanceof InputError) {
      errors.push({ path: file.name, message: model.reason });
      rows.push({ ...NO_FIGURES, path: file.name, ok: false, error: model.reason });
      return;
    }
    const figures = fileFigures(model, images.facts, imageKey, options.passes ?? 1);
    // The figures are those of the source.
    models.push({ model: separated(model, options.separate), figures, file, edited: edited[i] });
    const { drawCalls, slots, triangles, gpuVertices, textures, textureBytes } = figures;
    rows.push({
      path: file.name,
      ok: true,
      drawCalls,
      slots,
      triangles,
      gpuVertices,
      textures,
      textureBytes,
      slotNames: [...new Set(model.parts.map((part) => part.slot))].map((s) => model.slots[s].name),
      notes: model.notes,
    });
  });
  const sums = totals(models, errors.length, images.facts, imageKey);
  return { models, report: { files: rows, totals: sums, findings: [], errors } };
}

/** The model with slots of their own for some objects; see `separateObjects`. */
export const separated = (model: Model, patterns: readonly string[] = []): Model =>
  separateObjects(model.document, model.path, patterns) > 0 ? rereadModel(model) : model;

const NO_FACES = FaceDecisions.parse({});
const NO_FIGURES = { drawCalls: 0, slots: 0, triangles: 0, gpuVertices: 0, textures: 0 };

function optionsOf(reading: ReadingDecisions, file: InputFile): SourceOptions {
  return reading.sources[file.name] ?? SourceOptions.parse({});
}

/**
 * The first stage: reads all files, with loose pictures in their slots and faces changed as decided.
 * @throws InputError when no model could be read, or any could not and `strict` is asked for @throws Cancelled
 */
export async function read(
  input: PipelineInput,
  { scope, onProgress }: StageContext,
  options: Pick<ReadOptions, 'beforeEdits' | 'keepBytes'> = {},
): Promise<ReadFiles> {
  const { reading, faces } = input.decisions;
  const separate = objectPatterns(input.decisions);
  const found = await readFiles(input.files, scope, {
    ...options,
    textures: input.textures,
    reading,
    faces,
    separate,
    onProgress,
  });
  const [error] = found.report.errors;
  if (error && (input.strict || found.models.length === 0)) throw new InputError(error.path, error.message);
  if (found.models.length === 0) throw new InputError('input', 'there is no model that can be read');
  return found;
}
