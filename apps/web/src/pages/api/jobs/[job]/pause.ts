import type { APIRoute } from 'astro';
import { PauseJob } from '../../../../contract/project.ts';
import { pauseJob } from '../../../../server/jobs.ts';
import { answer, body, json } from '../../../../server/problem.ts';

export const POST: APIRoute = ({ params, request }) =>
  answer(async () => {
    const { on } = await body(request, PauseJob);
    pauseJob(params.job ?? '', on);
    return json({});
  });
