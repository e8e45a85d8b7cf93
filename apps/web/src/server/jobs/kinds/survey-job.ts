import { copyFile, mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { objectPatterns } from '@wembrel/core/decisions/object-patterns';
import { defaultPlanOf, isUntouchedPlan } from '@wembrel/core/decisions/untouched';
import { InputError } from '@wembrel/core/errors';
import type { Model } from '@wembrel/core/scene/model';
import { fileFigures } from '@wembrel/core/survey/figures';
import { encodePng } from '@wembrel/runner/pictures/codec';
import { pictureTasks } from '@wembrel/runner/pictures/picture-tasks';
import { defaultPlan } from '@wembrel/runner/plans/default-plan';
import { gatherShownPlots } from '@wembrel/runner/plans/gather-plots';
import { basisOf } from '@wembrel/runner/plans/plan-basis';
import type { JobScope } from '@wembrel/runner/pool/job-scope';
import type { Progress } from '@wembrel/runner/progress';
import { imageKey } from '@wembrel/runner/read/image-keys';
import type { Images } from '@wembrel/runner/read/images';
import { PREVIEW_TRIANGLES, reduceForPreview } from '@wembrel/runner/reduce/reduce';
import { stageContext } from '@wembrel/runner/stages/context';
import { mend } from '@wembrel/runner/stages/mend';
import { readFiles } from '@wembrel/runner/stages/read';
import { modelPicture, surveyDetails } from '@wembrel/runner/survey/details';
import type { PlotIndex } from '../../../contract/plots.ts';
import type { ReadFileView } from '../../../contract/project.ts';
import { PLAN_FILE } from '../default-plan.ts';
import { type Emit, inputOf, type JobOrder, SOURCES_STAMP } from '../job-message.ts';
import { writeView } from '../write-view.ts';

/** Side of the small pictures of models, px. */
const THUMB = 256;

/** Reads the models of a project, and writes views and small pictures of them. */
export async function surveyProject(order: JobOrder, scope: JobScope, emit: Emit): Promise<void> {
  const views = join(order.folder, 'views');
  await mkdir(views, { recursive: true });
  const onProgress = (progress: Progress) =>
    emit({ type: 'progress', share: progress.share * 6, doing: progress.doing });
  const { files, textures, decisions } = inputOf(order);
  const context = stageContext(scope, ({ doing }) => emit({ type: 'progress', share: 0.98, doing }));
  const thumbs = join(order.folder, 'thumbs');
  await mkdir(thumbs, { recursive: true });
  /** Models of which there is a picture, by where it is. */
  const drawn = new Map<Model, string>();
  const draw = async (model: Model, images: Images, path: string) => {
    await writeFile(path, await encodePng(await modelPicture(model, images, scope, THUMB), THUMB, THUMB, 4));
    drawn.set(model, path);
  };
  const read = await readFiles(files, scope, {
    textures,
    reading: decisions.reading,
    faces: decisions.faces,
    separate: objectPatterns(decisions),
    // Edits are tried in the browser on what they begin with.
    beforeEdits: (model, file) => writeView(model.document, join(views, `${file}.source.glb`)),
    keepBytes: 0,
    onRead: async (file, result, images) => {
      if (!(result instanceof InputError)) await draw(result, images, join(thumbs, `read-${file}.png`));
      emit({ type: 'read', file: readFileView(order.files[file].name, file, result, images) });
    },
    onProgress,
  });
  for (const { model, file } of read.models)
    await writeView(model.document, join(views, `${order.files.indexOf(file)}.glb`));
  const details = await surveyDetails(read, order.files, scope, onProgress);
  const steps = details.pictures.length + read.models.length;
  let done = 0;
  const reportStep = (doing: string) => emit({ type: 'progress', share: 0.8 + (0.2 * done++) / steps, doing });
  await Promise.all(
    [...new Set(details.pictures.map((picture) => picture.key))].map(async (key) => {
      const bytes = read.images.byPixels(key).stored;
      await writeFile(join(thumbs, `${key}.png`), await scope.run(pictureTasks.thumbnail, { bytes, side: 96 }));
      reportStep('small pictures of textures');
    }),
  );
  for (const [i, { model }] of read.models.entries()) {
    scope.checkpoint();
    reportStep(`a small picture of ${model.path}`);
    const path = join(thumbs, `model-${i}.png`);
    const known = drawn.get(model);
    // A copy: the page may still ask for the other one.
    if (known) await copyFile(known, path);
    else await draw(model, read.images, path);
  }
  if (isUntouchedPlan(decisions)) {
    const mended = await mend(read, decisions.repairs, scope);
    const plan = await defaultPlan(basisOf(mended, decisions, context), decisions, context);
    await writeFile(join(order.folder, PLAN_FILE), JSON.stringify(defaultPlanOf(plan)));
  }
  // Last, since reducing changes the documents.
  for (const [i, { model }] of read.models.entries()) {
    if (!details.models[i].reduced) continue;
    scope.checkpoint();
    reportStep(`a reduced copy of ${model.path}`);
    const drawn = new Map(
      model.parts.map((part) => [part.primitive, part.instances.reduce((sum, x) => sum + x.copies, 0)]),
    );
    await reduceForPreview(model.document, PREVIEW_TRIANGLES, (primitive) => drawn.get(primitive) ?? 0);
    await writeView(model.document, join(views, `${details.models[i].file}.reduced.glb`));
  }
  await writeFile(
    join(order.folder, 'survey.json'),
    JSON.stringify({ ...read.report, ...details, filesStamp: order.filesStamp }),
  );
  await writeFile(join(order.folder, SOURCES_STAMP), order.sourcesStamp);
}

/** What the page shows of a file as soon as it was read. */
function readFileView(path: string, file: number, result: Model | InputError, images: Images): ReadFileView {
  const nothing = { drawCalls: 0, slots: 0, triangles: 0, textureBytes: 0 };
  if (result instanceof InputError) return { path, file, problem: result.reason, ...nothing };
  const { drawCalls, slots, triangles, textureBytes } = fileFigures(result, images.facts, imageKey, 1);
  return { path, file, problem: null, drawCalls, slots, triangles, textureBytes: textureBytes.bc7 };
}

/** Islands before packing, for the worker in the browser. */
export async function layoutProject(order: JobOrder, scope: JobScope, emit: Emit): Promise<void> {
  const {
    routing,
    plots: sheets,
    stretch,
    looks,
  } = await gatherShownPlots(inputOf(order), scope, (progress) =>
    emit({ type: 'progress', share: progress.share * 8, doing: progress.doing }),
  );
  let shapeAt = 0;
  let faceAt = 0;
  const shapes: Float64Array[] = [];
  const faces: Uint32Array[] = [];
  const index: PlotIndex = {
    looks,
    sheets: sheets.map((plots, s) =>
      plots.map(({ shape, islands, shapeIsland: _, shapeTriangle: __, ...p }, i) => {
        shapes.push(shape);
        const first = shapeAt;
        shapeAt += shape.length / 6;
        return {
          ...p,
          stretch: stretch[s][i],
          slot: routing.materials[p.material].name,
          shape: [first, shape.length / 6],
          islands: islands.map(({ model, part, triangles }) => {
            faces.push(triangles);
            const from = faceAt;
            faceAt += triangles.length;
            return [model, part, from, triangles.length];
          }),
        };
      }),
    ),
  };
  const bytes = (list: (Float64Array | Uint32Array)[]) =>
    Buffer.concat(list.map((a) => Buffer.from(a.buffer, a.byteOffset, a.byteLength)));
  await writeFile(join(order.folder, 'shapes.bin'), bytes(shapes));
  await writeFile(join(order.folder, 'faces.bin'), bytes(faces));
  await writeFile(join(order.folder, 'plots.json'), JSON.stringify(index));
}
