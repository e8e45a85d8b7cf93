import type { APIRoute } from 'astro';
import { StartJob } from '../../../../contract/project.ts';
import { answer, body, json } from '../../../../server/http/answer.ts';
import { startJob } from '../../../../server/jobs/jobs.ts';

export const POST: APIRoute = ({ params, request }) =>
  answer(async () => {
    const { kind, sheet, region } = await body(request, StartJob);
    return json({ id: await startJob(params.id ?? '', kind, sheet, region) }, 201);
  });
