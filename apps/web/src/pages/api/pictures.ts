import { Readable } from 'node:stream';
import type { APIRoute } from 'astro';
import { answer, json } from '../../server/http/answer.ts';
import { storePicture } from '../../server/store/planned-pictures.ts';
import { Problem } from '../../server/store/problem.ts';

/** A picture as the request's body; answers its hash. */
export const PUT: APIRoute = ({ request }) =>
  answer(async () => {
    if (!request.body) throw new Problem(400, 'the request has no contents');
    return json({ hash: await storePicture(Readable.fromWeb(request.body as never)) }, 201);
  });
