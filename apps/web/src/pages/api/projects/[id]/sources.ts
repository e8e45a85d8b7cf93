import type { APIRoute } from 'astro';
import { ChangeSources } from '../../../../contract/project.ts';
import { answer, body, json } from '../../../../server/http/answer.ts';
import { ensureSurvey } from '../../../../server/jobs/jobs.ts';
import { changeSources } from '../../../../server/store/sources.ts';

export const POST: APIRoute = ({ params, request }) =>
  answer(async () => {
    const { add, remove } = await body(request, ChangeSources);
    const version = await changeSources(params.id, add, remove);
    await ensureSurvey(params.id);
    return json({ version });
  });
