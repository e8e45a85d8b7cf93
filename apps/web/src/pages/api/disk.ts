import type { APIRoute } from 'astro';
import { SetDisk } from '../../contract/project.ts';
import { answer, body, json } from '../../server/http/answer.ts';
import { diskView, setResultBound } from '../../server/jobs/disk.ts';

export const GET: APIRoute = () => answer(async () => json(await diskView()));

export const PUT: APIRoute = ({ request }) =>
  answer(async () => {
    const { bound } = await body(request, SetDisk);
    await setResultBound(bound);
    return json(await diskView());
  });
