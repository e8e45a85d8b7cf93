import type { APIRoute } from 'astro';
import { answer, json } from '../../../../server/problem.ts';
import { restoreProject } from '../../../../server/projects.ts';

export const POST: APIRoute = ({ params }) =>
  answer(async () => {
    await restoreProject(params.id);
    return json({});
  });
