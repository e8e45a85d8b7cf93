import type { APIRoute } from 'astro';
import { CreateProject } from '../../../contract/project.ts';
import { answer, body, json } from '../../../server/http/answer.ts';
import { projectCards } from '../../../server/jobs/project-cards.ts';
import { createProject } from '../../../server/store/projects.ts';

export const GET: APIRoute = () => answer(async () => json(await projectCards()));

export const POST: APIRoute = ({ request }) =>
  answer(async () => {
    const { name } = await body(request, CreateProject);
    return json({ id: await createProject(name) }, 201);
  });
