import type { ProjectHead } from '../../contract/project.ts';
import { listJobs } from '../jobs/list-jobs.ts';
import { surveyFor } from '../jobs/surveys.ts';
import { watchNames } from '../jobs/watch.ts';
import { database } from '../store/database.ts';
import { requireProject } from '../store/projects.ts';
import { stampOf, stampOver } from '../store/stamps.ts';

/** What of a project changes often, as the pages see it. */
export async function projectHead(id: string | undefined): Promise<ProjectHead> {
  const p = await requireProject(id);
  const db = await database();
  const step = (number: number) =>
    db.selectFrom('step').select('label').where('project', '=', p.id).where('number', '=', number).executeTakeFirst();
  const stamps = {
    stamp: stampOf(p.state, 'final'),
    rayStamp: stampOf(p.state, 'ray-final'),
    lightStamp: stampOf(p.state, 'light'),
    layoutStamp: stampOf(p.state, 'layout'),
  };
  const [undo, redo, jobs, survey] = await Promise.all([
    step(p.position),
    step(p.position + 1),
    listJobs(p.id, Object.values(stamps)),
    surveyFor(p),
  ]);
  return {
    id: p.id,
    name: p.name,
    version: p.version,
    sourcesStamp: stampOver(p.state.sources),
    ...stamps,
    surveyJob: survey?.id ?? null,
    watch: { name: p.watch, names: watchNames() },
    undo: undo?.label ?? null,
    redo: redo?.label ?? null,
    jobs,
  };
}
