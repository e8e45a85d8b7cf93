import type { APIRoute } from 'astro';
import { eventStream } from '../../../../server/events.ts';
import { answer } from '../../../../server/problem.ts';
import { requireProject } from '../../../../server/projects.ts';

export const GET: APIRoute = ({ params }) => answer(async () => eventStream((await requireProject(params.id)).id));
