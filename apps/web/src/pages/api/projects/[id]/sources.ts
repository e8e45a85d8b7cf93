import type { APIRoute } from 'astro';
import { ChangeSources } from '../../../../contract/project.ts';
import { answer, body, json } from '../../../../server/http/answer.ts';
import { ensureSurvey } from '../../../../server/jobs/jobs.ts';
import { requireProject } from '../../../../server/store/projects.ts';
import { changeSources, sourceViews } from '../../../../server/store/sources.ts';

/** The files of a project, by path. */
export const GET: APIRoute = ({ params }) =>
  answer(async () => json(sourceViews((await requireProject(params.id)).state)));

export const POST: APIRoute = ({ params, request }) =>
  answer(async () => {
    const { add, remove } = await body(request, ChangeSources);
    const version = await changeSources(params.id, add, remove);
    await ensureSurvey(params.id);
    return json({ version });
  });
