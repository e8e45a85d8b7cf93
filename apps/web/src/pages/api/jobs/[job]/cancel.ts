import type { APIRoute } from 'astro';
import { answer, json } from '../../../../server/http/answer.ts';
import { cancelJob } from '../../../../server/jobs/jobs.ts';

export const POST: APIRoute = ({ params }) =>
  answer(async () => {
    await cancelJob(params.job ?? '');
    return json({});
  });
