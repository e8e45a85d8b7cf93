import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { ProjectView, SurveyView } from '../contract/project.ts';
import { database } from './database.ts';
import { listJobs } from './jobs.ts';
import { jobFolder } from './paths.ts';
import { requireProject, stampOf } from './projects.ts';
import { sourceChanges } from './source-changes.ts';
import { watchNames } from './watch.ts';

/** A project as the pages see it. */
export async function viewProject(id: string | undefined): Promise<ProjectView> {
  const p = await requireProject(id);
  const db = await database();
  const step = (number: number) =>
    db.selectFrom('step').select('label').where('project', '=', p.id).where('number', '=', number).executeTakeFirst();
  const [undo, redo, jobs] = await Promise.all([step(p.position), step(p.position + 1), listJobs(p.id)]);
  const sourceStamp = stampOf(p.state, 'survey');
  const done = jobs.find((j) => j.kind === 'survey' && j.state === 'done' && j.madeFrom === sourceStamp);
  const read = async (job: { id: string }) =>
    JSON.parse(await readFile(join(jobFolder(job.id), 'survey.json'), 'utf8')) as SurveyView;
  const survey = done ? await read(done) : null;
  // What it was compared with before: the last reading of something else.
  const before = done && jobs.slice(jobs.indexOf(done) + 1).find((j) => j.kind === 'survey' && j.state === 'done');
  const changes =
    survey && before ? sourceChanges(await read(before).catch(() => survey), survey, p.state.decisions.routes) : null;
  return {
    id: p.id,
    name: p.name,
    version: p.version,
    decisions: p.state.decisions,
    sources: Object.entries(p.state.sources)
      .map(([path, s]) => ({ path, ...s }))
      .sort((a, b) => (a.path < b.path ? -1 : 1)),
    stamp: stampOf(p.state, 'final'),
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
