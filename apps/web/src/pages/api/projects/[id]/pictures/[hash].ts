import type { APIRoute } from 'astro';
import { answer } from '../../../../../server/http/answer.ts';
import { plannedPicture } from '../../../../../server/store/planned-pictures.ts';

/** The picture of a planned surface, reduced. */
export const GET: APIRoute = ({ params }) =>
  answer(
    async () =>
      new Response((await plannedPicture(params.hash)) as BodyInit, {
        headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=31536000, immutable' },
      }),
  );
