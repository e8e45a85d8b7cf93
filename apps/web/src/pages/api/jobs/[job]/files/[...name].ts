import { createReadStream } from 'node:fs';
import { readdir, stat } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { Readable } from 'node:stream';
import type { APIRoute } from 'astro';
import { answer } from '../../../../../server/http/answer.ts';
import { finishedJob } from '../../../../../server/jobs/jobs.ts';
import { Problem } from '../../../../../server/store/problem.ts';

const TYPES: Record<string, string> = {
  json: 'application/json',
  png: 'image/png',
  jpg: 'image/jpeg',
  webp: 'image/webp',
  glb: 'model/gltf-binary',
};

/** A file of a finished job: only names that the folder really holds are served. */
export const GET: APIRoute = ({ params }) =>
  answer(async () => {
    const job = await finishedJob(params.job);
    const entries = await readdir(job.folder, { recursive: true, withFileTypes: true });
    const known = new Map(
      entries
        .filter((entry) => entry.isFile())
        .map((entry) => {
          const path = join(entry.parentPath, entry.name);
          return [relative(job.folder, path).split(sep).join('/'), path] as const;
        }),
    );
    const path = known.get(params.name ?? '');
    if (!path) throw new Problem(404, 'there is no such file');
    const { size } = await stat(path);
    const type = TYPES[path.split('.').pop() ?? ''] ?? 'application/octet-stream';
    return new Response(Readable.toWeb(createReadStream(path)) as ReadableStream, {
      // A finished job never changes.
      headers: {
        'content-type': type,
        'content-length': String(size),
        'cache-control': 'private, max-age=31536000, immutable',
      },
    });
  });
