import type { APIRoute } from 'astro';
import { answer, json } from '../../../../server/http/answer.ts';
import { restoreProject } from '../../../../server/store/projects.ts';

export const POST: APIRoute = ({ params }) =>
  answer(async () => {
    await restoreProject(params.id);
    return json({});
  });
