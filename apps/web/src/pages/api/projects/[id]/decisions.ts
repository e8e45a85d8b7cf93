import type { APIRoute } from 'astro';
import { SaveDecisions } from '../../../../contract/project.ts';
import { answer, body, json } from '../../../../server/http/answer.ts';
import { ensureSurvey } from '../../../../server/jobs/jobs.ts';
import { changeProject } from '../../../../server/store/projects.ts';

export const PUT: APIRoute = ({ params, request }) =>
  answer(async () => {
    const { parent, label, decisions } = await body(request, SaveDecisions);
    const version = await changeProject(params.id, parent, label, (state) => ({ ...state, decisions }));
    // How files are read is a decision too.
    await ensureSurvey(params.id);
    return json({ version });
  });
