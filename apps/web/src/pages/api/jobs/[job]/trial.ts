import { join } from 'node:path';
import type { APIRoute } from 'astro';
import { answer, json } from '../../../../server/http/answer.ts';
import { finishedJob } from '../../../../server/jobs/jobs.ts';
import { trialOf } from '../../../../server/jobs/kinds/trial.ts';

/** What an engine meets that loads the delivery of a job. */
export const GET: APIRoute = ({ params }) =>
  answer(async () => {
    const { id, folder } = await finishedJob(params.job);
    return json(await trialOf(id, join(folder, 'delivery')));
  });
