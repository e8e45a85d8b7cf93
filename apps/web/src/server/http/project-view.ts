import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { ProjectView, SurveyView } from '../../contract/project.ts';
import { listJobs } from '../jobs/jobs.ts';
import { watchNames } from '../jobs/watch.ts';
import { database } from '../store/database.ts';
import { jobFolder } from '../store/paths.ts';
import { filesStamp, requireProject, stampOf } from '../store/projects.ts';
import { sourceChanges } from '../store/source-changes.ts';

/** A project as the pages see it. */
export async function viewProject(id: string | undefined): Promise<ProjectView> {
  const p = await requireProject(id);
  const db = await database();
  const step = (number: number) =>
    db.selectFrom('step').select('label').where('project', '=', p.id).where('number', '=', number).executeTakeFirst();
  const [undo, redo, jobs] = await Promise.all([step(p.position), step(p.position + 1), listJobs(p.id)]);
  const sourceStamp = stampOf(p.state, 'survey');
  const files = filesStamp(p.state);
  const surveys = jobs.filter((j) => j.kind === 'survey' && j.state === 'done');
  const read = async (job: { id: string }) =>
    JSON.parse(await readFile(join(jobFolder(job.id), 'survey.json'), 'utf8')) as SurveyView;
  let done = surveys.find((j) => j.madeFrom === sourceStamp);
  let survey = done ? await read(done) : null;
  if (!done) {
    // The files are the same and only their faces are changed: what is known stays in sight until they are read so.
    const [last] = surveys;
    const known = last ? await read(last).catch(() => null) : null;
    if (known?.filesStamp === files) [done, survey] = [last, known];
  }
  // What it was compared with before: the last reading of other files.
  let changes: ProjectView['changes'] = null;
  for (const job of done ? surveys.slice(surveys.indexOf(done) + 1) : []) {
    const before = await read(job).catch(() => null);
    if (!survey || before?.filesStamp === survey.filesStamp) continue;
    if (before) changes = sourceChanges(before, survey, p.state.decisions.routes);
    break;
  }
  return {
    id: p.id,
    name: p.name,
    version: p.version,
    decisions: p.state.decisions,
    sources: Object.entries(p.state.sources)
      .map(([path, s]) => ({ path, ...s }))
      .sort((a, b) => (a.path < b.path ? -1 : 1)),
    stamp: stampOf(p.state, 'final'),
    rayStamp: stampOf(p.state, 'ray-final'),
    lightStamp: stampOf(p.state, 'light'),
    layoutStamp: stampOf(p.state, 'layout'),
    survey,
    surveyJob: done?.id ?? null,
    changes,
    watch: { name: p.watch, names: watchNames() },
    undo: undo?.label ?? null,
    redo: redo?.label ?? null,
    jobs,
  };
}
