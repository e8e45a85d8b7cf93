import { Readable } from 'node:stream';
import type { APIRoute } from 'astro';
import { storePicture } from '../../server/planned.ts';
import { answer, json, Problem } from '../../server/problem.ts';

/** A picture as the request's body; answers its hash. */
export const PUT: APIRoute = ({ request }) =>
  answer(async () => {
    if (!request.body) throw new Problem(400, 'the request has no contents');
    return json({ hash: await storePicture(Readable.fromWeb(request.body as never)) }, 201);
  });
