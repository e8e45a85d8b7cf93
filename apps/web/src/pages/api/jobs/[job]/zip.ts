import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { zipFiles } from '@wembrel/runner/write/zip';
import type { APIRoute } from 'astro';
import type {
  LightResultView,
  RayResultView,
  RecipeResultView,
  ResultView,
  StandInResultView,
} from '../../../../contract/project.ts';
import { answer } from '../../../../server/http/answer.ts';
import { finishedJob } from '../../../../server/jobs/jobs.ts';
import { requireProject } from '../../../../server/store/projects.ts';

/** Files that a bake has delivered: of sheets and models, of maps from high to low, or of models that were lit. */
async function writtenBy(folder: string): Promise<string[]> {
  const read = async <T>(name: string) => JSON.parse(await readFile(join(folder, name), 'utf8')) as T;
  const rays = await read<RayResultView>('rays.json').catch(() => null);
  if (rays) return rays.sheets.flatMap((sheet) => [sheet.model, ...sheet.levels, ...sheet.maps.map((map) => map.file)]);
  const light = await read<LightResultView>('light.json').catch(() => null);
  if (light) return light.models.map((model) => model.file);
  const standIn = await read<StandInResultView>('stand-in.json').catch(() => null);
  if (standIn) return Object.keys(standIn.sizes);
  const recipe = await read<RecipeResultView>('recipe.json').catch(() => null);
  if (recipe) return Object.keys(recipe.sizes);
  return (await read<ResultView>('result.json')).written;
}

export const GET: APIRoute = ({ params }) =>
  answer(async () => {
    const job = await finishedJob(params.job);
    const project = await requireProject(job.project);
    const name = project.name.replace(/[^A-Za-z0-9._-]+/g, '-');
    const stream = Readable.from(zipFiles(join(job.folder, 'delivery'), await writtenBy(job.folder)));
    return new Response(Readable.toWeb(stream) as ReadableStream, {
      headers: {
        'content-type': 'application/zip',
        'content-disposition': `attachment; filename="${name || 'wembrel'}.zip"`,
        'cache-control': 'no-store',
      },
    });
  });
