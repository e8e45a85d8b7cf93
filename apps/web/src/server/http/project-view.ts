import type { ProjectHead } from '../../contract/project.ts';
import { listJobs } from '../jobs/list-jobs.ts';
import { surveyFor } from '../jobs/surveys.ts';
import { watchNames } from '../jobs/watch.ts';
import { database } from '../store/database.ts';
import { requireProject } from '../store/projects.ts';
import { stampOf, stampOver } from '../store/stamps.ts';

/** What of a project changes often, as the pages see it. */
export async function projectHead(id: string | undefined): Promise<ProjectHead> {
  const projectRow = await requireProject(id);
  const db = await database();
  const step = (number: number) =>
    db
      .selectFrom('step')
      .select('label')
      .where('project', '=', projectRow.id)
      .where('number', '=', number)
      .executeTakeFirst();
  const stamps = {
    stamp: stampOf(projectRow.state, 'final'),
    rayStamp: stampOf(projectRow.state, 'ray-final'),
    lightStamp: stampOf(projectRow.state, 'light'),
    standInStamp: stampOf(projectRow.state, 'stand-in-final'),
    recipeStamp: stampOf(projectRow.state, 'recipe-final'),
    layoutStamp: stampOf(projectRow.state, 'layout'),
  };
  const [undo, redo, jobs, survey] = await Promise.all([
    step(projectRow.position),
    step(projectRow.position + 1),
    listJobs(projectRow.id, Object.values(stamps)),
    surveyFor(projectRow),
  ]);
  return {
    id: projectRow.id,
    name: projectRow.name,
    version: projectRow.version,
    sourcesStamp: stampOver(projectRow.state.sources),
    ...stamps,
    surveyJob: survey?.id ?? null,
    watch: { name: projectRow.watch, names: watchNames() },
    undo: undo?.label ?? null,
    redo: redo?.label ?? null,
    jobs,
  };
}
