import type { APIRoute } from 'astro';
import { demoProject } from '../../server/demo.ts';
import { answer, json } from '../../server/problem.ts';

export const POST: APIRoute = () => answer(async () => json({ id: await demoProject() }));
