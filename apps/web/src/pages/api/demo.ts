import type { APIRoute } from 'astro';
import { OpenDemo } from '../../contract/project.ts';
import { demoProject } from '../../server/demo/demo.ts';
import { answer, body, json } from '../../server/http/answer.ts';

export const POST: APIRoute = ({ request }) =>
  answer(async () => json({ id: await demoProject((await body(request, OpenDemo)).part) }));
