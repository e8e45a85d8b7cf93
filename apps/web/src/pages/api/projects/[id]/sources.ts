import { Readable } from 'node:stream';
import type { APIRoute } from 'astro';
import { database } from '../../../../server/database.ts';
import { events } from '../../../../server/events.ts';
import { answer, json, Problem } from '../../../../server/problem.ts';
import { requireProject } from '../../../../server/projects.ts';
import { addSource, sourcePath } from '../../../../server/sources.ts';

/** One file as the request's body; its logical path in `path`. */
export const PUT: APIRoute = ({ params, request, url }) =>
  answer(async () => {
    const project = await requireProject(params.id);
    if (!request.body) throw new Problem(400, 'the request has no contents');
    const paths = await addSource(
      project.id,
      url.searchParams.get('path') ?? '',
      Readable.fromWeb(request.body as never),
    );
    events.emit(project.id, { type: 'changed' });
    return json({ paths }, 201);
  });

export const DELETE: APIRoute = ({ params, url }) =>
  answer(async () => {
    const project = await requireProject(params.id);
    const db = await database();
    await db
      .deleteFrom('source')
      .where('project', '=', project.id)
      .where('path', '=', sourcePath(url.searchParams.get('path') ?? ''))
      .execute();
    events.emit(project.id, { type: 'changed' });
    return json({});
  });
