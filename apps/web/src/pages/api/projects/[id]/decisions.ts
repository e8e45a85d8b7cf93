import type { APIRoute } from 'astro';
import { SaveDecisions } from '../../../../contract/project.ts';
import { answer, body, json } from '../../../../server/problem.ts';
import { saveDecisions } from '../../../../server/projects.ts';

export const PUT: APIRoute = ({ params, request }) =>
  answer(async () => json({ revision: await saveDecisions(params.id ?? '', await body(request, SaveDecisions)) }));
