import type { APIRoute } from 'astro';
import { AdoptBaked } from '../../../../contract/project.ts';
import { adoptBaked } from '../../../../server/adopt.ts';
import { answer, body, json } from '../../../../server/problem.ts';

export const POST: APIRoute = ({ params, request }) =>
  answer(async () => {
    const { into } = await body(request, AdoptBaked);
    return json(await adoptBaked(params.job, into), 201);
  });
