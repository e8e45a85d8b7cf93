import type { APIRoute } from 'astro';
import { ChangeSources } from '../../../../contract/project.ts';
import { ensureSurvey } from '../../../../server/jobs.ts';
import { answer, body, json } from '../../../../server/problem.ts';
import { changeSources } from '../../../../server/sources.ts';

export const POST: APIRoute = ({ params, request }) =>
  answer(async () => {
    const { add, remove } = await body(request, ChangeSources);
    const version = await changeSources(params.id, add, remove);
    await ensureSurvey(params.id);
    return json({ version });
  });
