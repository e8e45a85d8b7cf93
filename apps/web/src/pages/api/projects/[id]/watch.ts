import type { APIRoute } from 'astro';
import { WatchFolder } from '../../../../contract/project.ts';
import { answer, body, json } from '../../../../server/http/answer.ts';
import { follow } from '../../../../server/jobs/watch.ts';

export const PUT: APIRoute = ({ params, request }) =>
  answer(async () => {
    await follow(params.id, (await body(request, WatchFolder)).name);
    return json({});
  });
