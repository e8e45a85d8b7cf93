import type { APIRoute } from 'astro';
import { answer, json } from '../../../../server/http/answer.ts';
import { finishedJob } from '../../../../server/jobs/jobs.ts';
import { changesSince } from '../../../../server/jobs/surveys.ts';

/** What came and went with a survey, against the one before. */
export const GET: APIRoute = ({ params }) =>
  answer(async () => json(await changesSince(await finishedJob(params.job))));
