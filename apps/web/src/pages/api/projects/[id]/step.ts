import type { APIRoute } from 'astro';
import { StepProject } from '../../../../contract/project.ts';
import { answer, body, json } from '../../../../server/http/answer.ts';
import { ensureSurvey } from '../../../../server/jobs/jobs.ts';
import { stepProject } from '../../../../server/store/projects.ts';

/** Undo and redo. */
export const POST: APIRoute = ({ params, request }) =>
  answer(async () => {
    const { parent, way } = await body(request, StepProject);
    const label = await stepProject(params.id, parent, way);
    await ensureSurvey(params.id);
    return json({ label });
  });
