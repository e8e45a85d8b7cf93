import type { APIRoute } from 'astro';
import { answer, json } from '../../../../server/http/answer.ts';
import { duplicateProject } from '../../../../server/store/projects.ts';

export const POST: APIRoute = ({ params }) => answer(async () => json({ id: await duplicateProject(params.id) }, 201));
