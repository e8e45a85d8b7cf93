import type { APIRoute } from 'astro';
import { LIVE_BYTES, LiveQuestion } from '../../../../contract/live-recipe.ts';
import { answer, body } from '../../../../server/http/answer.ts';
import { askLive } from '../../../../server/live/live.ts';

/** What is asked while a recipe is tuned. */
export const POST: APIRoute = ({ params, request }) =>
  answer(async () => {
    const question = await body(request, LiveQuestion, LIVE_BYTES);
    const bytes = await askLive(params.id, question, request.signal);
    return new Response(bytes, {
      headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
    });
  });
