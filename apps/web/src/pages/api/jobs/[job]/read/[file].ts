import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { APIRoute } from 'astro';
import { answer } from '../../../../../server/http/answer.ts';
import { jobFolder } from '../../../../../server/store/paths.ts';
import { Problem } from '../../../../../server/store/problem.ts';

/** A small picture of a model that a survey has read while it reads others. */
export const GET: APIRoute = ({ params }) =>
  answer(async () => {
    const { job = '', file = '' } = params;
    if (!/^[0-9a-f-]{36}$/.test(job) || !/^\d{1,6}$/.test(file)) throw new Problem(404, 'there is no such picture');
    const bytes = await readFile(join(jobFolder(job), 'thumbs', `read-${file}.png`)).catch(() => null);
    // Cancelled, or done by the time that it was asked for, which gives it another name: no fault.
    if (!bytes) return new Response(null, { status: 204 });
    return new Response(new Uint8Array(bytes), {
      headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=600' },
    });
  });
