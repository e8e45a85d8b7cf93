import type { APIRoute } from 'astro';
import { answer, json } from '../../../../server/problem.ts';
import { deleteProject, viewProject } from '../../../../server/projects.ts';

export const GET: APIRoute = ({ params }) => answer(async () => json(await viewProject(params.id)));

export const DELETE: APIRoute = ({ params }) =>
  answer(async () => {
    await deleteProject(params.id ?? '');
    return json({});
  });
