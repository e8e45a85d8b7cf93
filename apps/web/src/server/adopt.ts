import { createReadStream } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { RayResultView } from '../contract/project.ts';
import { storeBlob } from './blobs.ts';
import { ensureSurvey, finishedJob } from './jobs.ts';
import { Problem } from './problem.ts';
import { createProject, requireProject } from './projects.ts';
import { changeSources } from './sources.ts';

/** Sources that come of a bake stand in a folder of their own: a later bake takes the place of an earlier one, no file is overwritten. */
const FOLDER = 'baked';

/**
 * Makes the low-polys of a ray bake, with their maps, sources.
 * @returns the project that has them @throws Problem
 */
export async function adoptBaked(jobId: string | undefined, into: 'project' | 'new'): Promise<{ project: string }> {
  const job = await finishedJob(jobId);
  const text = await readFile(join(job.folder, 'rays.json'), 'utf8').catch(() => null);
  if (!text) throw new Problem(409, 'that job has baked nothing from high to low');
  if (job.region) throw new Problem(409, 'only a part was baked; bake all of it first');
  const { sheets } = JSON.parse(text) as RayResultView;
  const files: { path: string; hash: string }[] = [];
  for (const { model } of sheets) {
    const { hash } = await storeBlob(createReadStream(join(job.folder, 'delivery', model)));
    files.push({ path: into === 'new' ? model : `${FOLDER}/${model}`, hash });
  }
  const project =
    into === 'project'
      ? job.project
      : await createProject(`${(await requireProject(job.project)).name}, baked`.slice(0, 80));
  await changeSources(project, files, []);
  await ensureSurvey(project);
  return { project };
}
