import type { APIRoute } from 'astro';
import { answer } from '../../../../server/http/answer.ts';
import { eventStream } from '../../../../server/http/event-stream.ts';
import { requireProject } from '../../../../server/store/projects.ts';

export const GET: APIRoute = ({ params }) => answer(async () => eventStream((await requireProject(params.id)).id));
