import type { APIRoute } from 'astro';
import { type DecisionsView, PATCH_BYTES, PatchDecisions } from '../../../../contract/project.ts';
import { answer, body, json } from '../../../../server/http/answer.ts';
import { ensureSurvey } from '../../../../server/jobs/jobs.ts';
import { requireProject } from '../../../../server/store/projects.ts';
import { patchDecisions } from '../../../../server/store/steps.ts';

export const GET: APIRoute = ({ params }) =>
  answer(async () => {
    const { version, state } = await requireProject(params.id);
    return json({ version, decisions: state.decisions } satisfies DecisionsView);
  });

/** One change of the decisions. */
export const PATCH: APIRoute = ({ params, request }) =>
  answer(async () => {
    const { parent, label, patch } = await body(request, PatchDecisions, PATCH_BYTES);
    const version = await patchDecisions(params.id, parent, label, patch);
    // How files are read is a decision too.
    await ensureSurvey(params.id);
    return json({ version });
  });
