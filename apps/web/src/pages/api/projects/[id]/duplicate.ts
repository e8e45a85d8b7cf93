import type { APIRoute } from 'astro';
import { answer, json } from '../../../../server/problem.ts';
import { duplicateProject } from '../../../../server/projects.ts';

export const POST: APIRoute = ({ params }) => answer(async () => json({ id: await duplicateProject(params.id) }, 201));
