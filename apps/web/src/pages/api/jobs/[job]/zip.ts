import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { zipFiles } from '@wembrel/runner/write/zip';
import type { APIRoute } from 'astro';
import type { ResultView } from '../../../../contract/project.ts';
import { finishedJob } from '../../../../server/jobs.ts';
import { answer } from '../../../../server/problem.ts';
import { requireProject } from '../../../../server/projects.ts';

export const GET: APIRoute = ({ params }) =>
  answer(async () => {
    const job = await finishedJob(params.job);
    const result = JSON.parse(await readFile(join(job.folder, 'result.json'), 'utf8')) as ResultView;
    const project = await requireProject(job.project);
    const name = project.name.replace(/[^A-Za-z0-9._-]+/g, '-');
    const stream = Readable.from(zipFiles(join(job.folder, 'delivery'), result.written));
    return new Response(Readable.toWeb(stream) as ReadableStream, {
      headers: {
        'content-type': 'application/zip',
        'content-disposition': `attachment; filename="${name || 'wembrel'}.zip"`,
        'cache-control': 'no-store',
      },
    });
  });
