import type { APIRoute } from 'astro';
import { AdoptBaked } from '../../../../contract/project.ts';
import { answer, body, json } from '../../../../server/http/answer.ts';
import { adoptBaked } from '../../../../server/jobs/adopt.ts';

export const POST: APIRoute = ({ params, request }) =>
  answer(async () => {
    const { into } = await body(request, AdoptBaked);
    return json(await adoptBaked(params.job, into), 201);
  });
