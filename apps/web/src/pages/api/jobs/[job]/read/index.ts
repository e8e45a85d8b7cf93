import type { APIRoute } from 'astro';
import { answer } from '../../../../../server/http/answer.ts';
import { readSoFar } from '../../../../../server/jobs/jobs.ts';

/** Files that a running survey has read so far. */
export const GET: APIRoute = ({ params }) => answer(async () => Response.json(readSoFar(params.job ?? '')));
