import { mkdir, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { vertexLightOf } from '@wembrel/core/decisions/light-decisions';
import { InputError } from '@wembrel/core/errors';
import { Names, stem } from '@wembrel/core/handover/names';
import { lightVertices } from '@wembrel/core/rays/cast/vertex-light';
import type { JobScope } from '@wembrel/runner/pool/job-scope';
import { cutAwayPictures } from '@wembrel/runner/rays/cut-away';
import { readFiles } from '@wembrel/runner/stages/read';
import type { LightResultView } from '../../../contract/project.ts';
import type { JobMessage, JobOrder } from '../job-message.ts';
import { writeView } from '../write-view.ts';

/** Multiplies the decided light into the vertex colours of all models of a project. */
export async function lightProject(
  order: JobOrder,
  scope: JobScope,
  emit: (jobMessage: JobMessage) => void,
): Promise<void> {
  const { light, reading, faces } = order.decisions;
  const recipe = vertexLightOf(light);
  if (!recipe) throw new InputError('Light', 'neither AO nor a sun is switched on');
  const read = await readFiles(order.files, scope, {
    textures: order.textures,
    reading,
    faces,
    onProgress: (progress) => emit({ type: 'progress', share: progress.share * 1.5, doing: progress.doing }),
  });
  const [broken] = read.report.errors;
  if (read.models.length === 0 && broken) throw new InputError(broken.path, broken.message);
  const delivery = join(order.folder, 'delivery');
  await mkdir(delivery, { recursive: true });
  const names = new Names();
  const view: LightResultView = { models: [] };
  for (const [i, { model }] of read.models.entries()) {
    const lit = lightVertices(model, recipe, {
      progress: (share) => {
        scope.checkpoint();
        emit({
          type: 'progress',
          share: 0.15 + (0.85 * (i + share)) / read.models.length,
          doing: `lighting ${model.path}`,
        });
      },
      slots: light.slots,
      pictures: await cutAwayPictures(model),
    });
    const file = names.claim(stem(model.path), '.glb');
    await writeView(model.document, join(delivery, file));
    view.models.push({ path: model.path, file, bytes: (await stat(join(delivery, file))).size, ...lit });
  }
  await writeFile(join(order.folder, 'light.json'), JSON.stringify(view));
}
