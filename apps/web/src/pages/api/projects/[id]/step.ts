import type { APIRoute } from 'astro';
import { StepProject } from '../../../../contract/project.ts';
import { answer, body, json } from '../../../../server/http/answer.ts';
import { ensureSurvey } from '../../../../server/jobs/jobs.ts';
import { stepProject } from '../../../../server/store/steps.ts';

/** Undo and redo. */
export const POST: APIRoute = ({ params, request }) =>
  answer(async () => {
    const { parent, way } = await body(request, StepProject);
    const stepped = await stepProject(params.id, parent, way);
    await ensureSurvey(params.id);
    return json(stepped);
  });
