import type { APIRoute } from 'astro';
import { answer, bodyText, json } from '../../../server/http/answer.ts';
import { MOST_BYTES, storeFaceText } from '../../../server/store/face-sets.ts';

/** Stores faces as text; answers what stands for them in the decisions. */
export const POST: APIRoute = ({ request }) =>
  answer(async () => json({ reference: await storeFaceText(await bodyText(request, MOST_BYTES)) }, 201));
