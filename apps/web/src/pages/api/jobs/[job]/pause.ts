import type { APIRoute } from 'astro';
import { PauseJob } from '../../../../contract/project.ts';
import { answer, body, json } from '../../../../server/http/answer.ts';
import { pauseJob } from '../../../../server/jobs/jobs.ts';

export const POST: APIRoute = ({ params, request }) =>
  answer(async () => {
    const { on } = await body(request, PauseJob);
    pauseJob(params.job ?? '', on);
    return json({});
  });
