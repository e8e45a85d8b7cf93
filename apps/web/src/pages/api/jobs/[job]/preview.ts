import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { APIRoute } from 'astro';
import { answer } from '../../../../server/http/answer.ts';
import { jobFolder } from '../../../../server/store/paths.ts';
import { Problem } from '../../../../server/store/problem.ts';

/** What a running bake has painted so far. */
export const GET: APIRoute = ({ params }) =>
  answer(async () => {
    if (!/^[0-9a-f-]{36}$/.test(params.job ?? '')) throw new Problem(404, 'there is no such job');
    const bytes = await readFile(join(jobFolder(params.job ?? ''), 'preview.png')).catch(() => null);
    // Not painted yet, or done by the time that it was asked for: no fault.
    if (!bytes) return new Response(null, { status: 204 });
    return new Response(new Uint8Array(bytes), {
      headers: { 'content-type': 'image/png', 'cache-control': 'no-store' },
    });
  });
