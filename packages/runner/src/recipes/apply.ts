import type { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import type { ReadingDecisions } from '@wembrel/core/decisions/reading';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { Cancelled, InputError } from '@wembrel/core/errors';
import { Names, stem } from '@wembrel/core/handover/names';
import { groupIds } from '@wembrel/core/rays/maps/group-ids';
import type { Model } from '@wembrel/core/scene/model';
import type { JobScope } from '../pool/job-scope.ts';
import { type OnProgress, stopwatch, within } from '../progress.ts';
import { bakedLooks, slotsApart } from '../rays/whole-model.ts';
import type { InputFile } from '../read/collect.ts';
import { type ReadFiles, readFiles } from '../stages/read.ts';
import { mapPaths } from '../stages/write-sheet.ts';
import { Delivery } from '../write/delivery.ts';
import { jsonFile, TextureFiles } from '../write/write-models.ts';
import { type Dressed, type DressSettings, dress } from './dress.ts';
import { Looks } from './looks.ts';
import { manifestOf } from './manifest.ts';
import { type OwnLayout, ownLayout } from './own-uvs.ts';
import type { DressedModel, RecipeFault, RecipeReport } from './report.ts';
import { type Destination, writeDressed, writeMaps } from './write.ts';

export interface ApplyOptions extends DressSettings {
  files: InputFile[];
  /** High-polys whose names begin as those of the models do; a single one is for a single model. */
  high: InputFile[];
  /** Files of the high-polys of a model by its path; without it their names tell. */
  highsOf?: (model: string) => ReadonlySet<string>;
  recipe: Recipe;
  /** Pictures that the recipe names. */
  pictures: InputFile[];
  out: string;
  /** Textures inside each GLB. */
  embed: boolean;
  /** Islands that lie over each other get places of their own. */
  separate: boolean;
  /** Loose textures that may belong to slots of the models, and how files are read. */
  textures?: InputFile[];
  reading?: ReadingDecisions;
  /** Face groups, and what is done to faces before. */
  faces?: FaceDecisions;
  strict?: boolean;
  onProgress?: OnProgress;
}

/** What all models of a run share. */
interface Run {
  options: ApplyOptions;
  scope: JobScope;
  read: ReadFiles;
  highs: readonly Model[];
  looks: Looks;
  names: Names;
  to: Destination;
  report: RecipeReport;
}

/**
 * Lays a recipe on every model: each gets one sheet of its own and one material. A model that cannot be dressed is named in `errors`, the others go on.
 * @throws InputError when none can be, or with `strict` @throws Cancelled
 */
export async function applyRecipe(options: ApplyOptions, scope: JobScope): Promise<RecipeReport> {
  const { seconds, lap } = stopwatch(scope);
  const read = await readFiles([...options.files, ...options.high], scope, {
    faces: options.faces,
    textures: options.textures,
    reading: options.reading,
    onProgress: (progress) => options.onProgress?.({ ...progress, share: progress.share * 0.2 }),
  });
  lap('read');
  const errors = [...read.report.errors];
  const highFiles = new Set(options.high);
  const models = read.models.filter(({ file }) => !highFiles.has(file)).map(({ model }) => model);
  const [first] = errors;
  if (first && (options.strict || models.length === 0)) throw new InputError(first.path, first.message);
  if (models.length === 0) throw new InputError('recipe', 'there is no model that can be read');
  const delivery = await Delivery.begin(options.out);
  const report: RecipeReport = {
    recipe: options.recipe.name,
    models: [],
    seconds,
    peakBytes: 0,
    written: [],
    faults: [],
    errors,
  };
  const run: Run = {
    options,
    scope,
    read,
    highs: read.models.filter(({ file }) => highFiles.has(file)).map(({ model }) => model),
    looks: new Looks(scope, options.pictures, { models, images: read.images }),
    names: new Names(),
    to: { delivery, textures: new TextureFiles(new Names(), delivery), embed: options.embed },
    report,
  };
  try {
    for (const [i, model] of models.entries()) {
      try {
        report.models.push(
          await applyOne(model, models, run, (share, doing) =>
            options.onProgress?.({
              stage: 'bake',
              share: 0.05 + (0.95 * (i + share)) / models.length,
              doing: `${stem(model.path)}: ${doing}`,
            }),
          ),
        );
      } catch (error) {
        if (error instanceof Cancelled || options.strict || !(error instanceof InputError)) throw error;
        errors.push({ path: error.path, message: error.reason });
      }
    }
    if (report.models.length === 0) throw new InputError(errors[0].path, errors[0].message);
    lap('recipe');
    report.peakBytes = process.resourceUsage().maxRSS * 1024;
    await delivery.write('manifest.json', jsonFile(manifestOf(report, options.recipe, delivery)));
    await delivery.commit(options.files.map((file) => file.path));
    report.written = delivery.list();
    lap('write');
    return report;
  } catch (error) {
    await delivery.discard();
    throw error;
  }
}

async function applyOne(
  model: Model,
  models: readonly Model[],
  run: Run,
  progress: (share: number, doing: string) => void,
): Promise<DressedModel> {
  const { options, scope, report, names } = run;
  const apart = slotsApart(model, []);
  const high = options.highsOf
    ? run.highs.filter((one) => options.highsOf?.(model.path).has(one.path))
    : highsOf(model, models, run.highs);
  progress(0, 'looking at its UVs');
  const laid = ownLayout(model, {
    size: options.size,
    margin: options.margin,
    separate: options.separate,
    apart,
    cancelled: () => scope.cancelled,
    progress: (share) => progress(0.1 * share, 'unwrapping'),
  });
  const edited = run.read.models.some((entry) => entry.model === model && entry.edited !== null);
  const groups = groupIds([model], options.faces?.groups ?? [], new Set(edited ? [model.path] : []));
  const source = { source: model, low: laid.model, high, apart, images: run.read.images, groups };
  const dressed = await dress(source, options.recipe, run.looks, options, within({ scope, progress }, 0.1, 0.9));
  progress(0.92, 'writing');
  const file = names.claim(stem(model.path), '.glb');
  const maps = await writeMaps(stem(file), dressed, options.margin, run.to, scope);
  await writeDressed(file, { model: laid.model, apart, needs: dressed.needs }, maps, run.to);
  report.faults.push(...faultsOf(model, apart, laid, dressed));
  return {
    path: file,
    source: model.path,
    layout: laid.layout,
    size: dressed.sheet.maps.width,
    coverage: Number(dressed.sheet.coverage.toFixed(4)),
    density: Number(dressed.density.toFixed(1)),
    apart: [...apart].map((slot) => model.slots[slot].name),
    lines: dressed.lines,
    maps: mapPaths(maps),
  };
}

/** High-polys whose file names begin with that of a model; a single one belongs to a single model. */
function highsOf(model: Model, models: readonly Model[], highs: readonly Model[]): Model[] {
  if (models.length === 1) return [...highs];
  const name = stem(model.path).replace(/[\s._-]*(low|lp)$/i, '');
  const found = highs.filter((high) => stem(high.path).startsWith(name));
  if (highs.length > 0 && found.length === 0)
    throw new InputError(model.path, 'no high-poly was given whose name begins as its own does');
  return found;
}

function faultsOf(model: Model, apart: ReadonlySet<number>, laid: OwnLayout, dressed: Dressed): RecipeFault[] {
  const name = model.path;
  const out = dressed.problems.map(
    ({ line, message, leftOut }): RecipeFault => ({
      code: 'line',
      subject: `${name}: ${line}`,
      message: leftOut ? `left out: ${message}` : message,
    }),
  );
  if (laid.layout === 'own' && laid.stacked > 0.005)
    out.push({
      code: 'stacked',
      subject: name,
      message: `islands lie over each other on ${(100 * laid.stacked).toFixed(0)} % of what they cover; the first decides the look (--separate gives each its own place)`,
    });
  for (const [picture, texels] of dressed.odd)
    if (texels > 0)
      out.push({
        code: 'ids',
        subject: `${name}: ${picture}`,
        message: `${texels} texels have the colour of no ID; they take the nearest one`,
      });
  const lost = [
    ...new Set(
      bakedLooks(model, apart).flatMap((look) => [...look.foreign, ...(look.carried.match(/\b[A-Z]+_\w+/g) ?? [])]),
    ),
  ];
  if (lost.length > 0)
    out.push({ code: 'extension', subject: name, message: `its sheet does not carry ${lost.join(', ')}` });
  return out;
}
