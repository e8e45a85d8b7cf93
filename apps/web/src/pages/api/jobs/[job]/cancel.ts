import type { APIRoute } from 'astro';
import { cancelJob } from '../../../../server/jobs.ts';
import { answer, json } from '../../../../server/problem.ts';

export const POST: APIRoute = ({ params }) =>
  answer(async () => {
    await cancelJob(params.job ?? '');
    return json({});
  });
