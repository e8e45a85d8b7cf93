import type { APIRoute } from 'astro';
import { RenameProject } from '../../../../contract/project.ts';
import { answer, body, json } from '../../../../server/http/answer.ts';
import { projectHead } from '../../../../server/http/project-view.ts';
import { endJobs } from '../../../../server/jobs/jobs.ts';
import { deleteProject, renameProject } from '../../../../server/store/projects.ts';

export const GET: APIRoute = ({ params }) => answer(async () => json(await projectHead(params.id)));

export const PATCH: APIRoute = ({ params, request }) =>
  answer(async () => {
    await renameProject(params.id, (await body(request, RenameProject)).name);
    return json({});
  });

export const DELETE: APIRoute = ({ params }) =>
  answer(async () => {
    await deleteProject(params.id);
    await endJobs(params.id as string);
    return json({});
  });
