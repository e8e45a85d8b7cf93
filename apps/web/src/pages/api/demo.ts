import type { APIRoute } from 'astro';
import { OpenDemo } from '../../contract/project.ts';
import { demoProject } from '../../server/demo.ts';
import { answer, body, json } from '../../server/problem.ts';

export const POST: APIRoute = ({ request }) =>
  answer(async () => json({ id: await demoProject((await body(request, OpenDemo)).part) }));
