import { Readable } from 'node:stream';
import type { APIRoute } from 'astro';
import { answer, json } from '../../server/http/answer.ts';
import { Problem } from '../../server/store/problem.ts';
import { storeUpload } from '../../server/store/sources.ts';

/** One file as the request's body; its logical path in `path`. Answers what was stored: an archive becomes its files. */
export const PUT: APIRoute = ({ request, url }) =>
  answer(async () => {
    if (!request.body) throw new Problem(400, 'the request has no contents');
    const stored = await storeUpload(url.searchParams.get('path') ?? '', Readable.fromWeb(request.body as never));
    return json({ stored }, 201);
  });
