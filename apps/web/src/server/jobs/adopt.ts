import { createReadStream } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { LightResultView, RayResultView, RecipeResultView, StandInResultView } from '../../contract/project.ts';
import { storeBlob } from '../store/blobs.ts';
import { Problem } from '../store/problem.ts';
import { createProject, requireProject } from '../store/projects.ts';
import { changeSources } from '../store/sources.ts';
import { ensureSurvey, finishedJob } from './jobs.ts';

/** Files of a bake that can be sources, and the folder in which they stand: a later bake takes the place of an earlier one, no file is overwritten. */
async function modelsOf(folder: string): Promise<{ files: string[]; under: string } | null> {
  const read = async <T>(name: string) => JSON.parse(await readFile(join(folder, name), 'utf8')) as T;
  const rays = await read<RayResultView>('rays.json').catch(() => null);
  if (rays) return { files: rays.sheets.map((sheet) => sheet.model), under: 'baked' };
  const light = await read<LightResultView>('light.json').catch(() => null);
  const standIn = await read<StandInResultView>('stand-in.json').catch(() => null);
  if (standIn) return { files: [standIn.model.path], under: 'stand-ins' };
  const recipe = await read<RecipeResultView>('recipe.json').catch(() => null);
  if (recipe) {
    const files = recipe.models.flatMap(({ path, layout }) => (layout === 'cell' ? [] : [path]));
    return files.length > 0 ? { files, under: 'dressed' } : null;
  }
  return light && { files: light.models.map((model) => model.file), under: 'lit' };
}

/**
 * Makes the low-polys of a ray bake with their maps, or models that were lit, sources.
 * @returns the project that has them @throws Problem
 */
export async function adoptBaked(jobId: string | undefined, into: 'project' | 'new'): Promise<{ project: string }> {
  const job = await finishedJob(jobId);
  const made = await modelsOf(job.folder);
  if (!made) throw new Problem(409, 'that job has made no models');
  if (job.region) throw new Problem(409, 'only a part was baked; bake all of it first');
  const files: { path: string; hash: string }[] = [];
  for (const model of made.files) {
    const { hash } = await storeBlob(createReadStream(join(job.folder, 'delivery', model)));
    files.push({ path: into === 'new' ? model : `${made.under}/${model}`, hash });
  }
  const project =
    into === 'project'
      ? job.project
      : await createProject(`${(await requireProject(job.project)).name}, ${made.under}`.slice(0, 80));
  await changeSources(project, files, []);
  await ensureSurvey(project);
  return { project };
}
