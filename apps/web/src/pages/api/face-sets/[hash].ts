import type { APIRoute } from 'astro';
import { answer } from '../../../server/http/answer.ts';
import { faceText } from '../../../server/store/face-sets.ts';
import { Problem } from '../../../server/store/problem.ts';

/** Faces as text, by the hash of it. */
export const GET: APIRoute = ({ params }) =>
  answer(async () => {
    if (!/^[0-9a-f]{64}$/.test(params.hash ?? '')) throw new Problem(404, 'there is no such face set');
    return new Response(await faceText(params.hash as string), {
      headers: { 'content-type': 'text/plain', 'cache-control': 'private, max-age=31536000, immutable' },
    });
  });
