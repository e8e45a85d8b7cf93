import type { APIRoute } from 'astro';
import { plannedPicture } from '../../../../../server/planned.ts';
import { answer } from '../../../../../server/problem.ts';

/** The picture of a planned surface, reduced. */
export const GET: APIRoute = ({ params }) =>
  answer(
    async () =>
      new Response((await plannedPicture(params.hash)) as BodyInit, {
        headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=31536000, immutable' },
      }),
  );
