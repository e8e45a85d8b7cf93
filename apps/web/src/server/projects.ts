import { createHash, randomUUID } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { z } from 'zod';
import {
  MergeDecisions,
  type ProjectSummary,
  type ProjectView,
  type SaveDecisions,
  type SurveyView,
} from '../contract/project.ts';
import { database } from './database.ts';
import { events } from './events.ts';
import { listJobs } from './jobs.ts';
import { jobFolder } from './paths.ts';
import { Problem } from './problem.ts';

export async function createProject(name: string): Promise<string> {
  const db = await database();
  const id = randomUUID();
  const now = new Date().toISOString();
  await db.transaction().execute(async (t) => {
    await t.insertInto('project').values({ id, name, created: now, changed: now, revision: 1 }).execute();
    await t
      .insertInto('revision')
      .values({ project: id, number: 1, decisions: JSON.stringify(MergeDecisions.parse({})), created: now })
      .execute();
  });
  return id;
}

export async function listProjects(): Promise<ProjectSummary[]> {
  const db = await database();
  const rows = await db
    .selectFrom('project')
    .leftJoin('source', 'source.project', 'project.id')
    .select((e) => ['project.id', 'project.name', 'project.changed', e.fn.count<number>('source.path').as('sources')])
    .groupBy('project.id')
    .orderBy('project.changed', 'desc')
    .execute();
  return rows.map((r) => ({ id: r.id, name: r.name, changed: r.changed, sources: Number(r.sources) }));
}

export async function requireProject(id: string | undefined) {
  const db = await database();
  const row = await db
    .selectFrom('project')
    .selectAll()
    .where('id', '=', id ?? '')
    .executeTakeFirst();
  if (!row) throw new Problem(404, 'there is no such project');
  return row;
}

export async function currentDecisions(project: string, revision: number): Promise<MergeDecisions> {
  const db = await database();
  const row = await db
    .selectFrom('revision')
    .select('decisions')
    .where('project', '=', project)
    .where('number', '=', revision)
    .executeTakeFirstOrThrow();
  return MergeDecisions.parse(JSON.parse(row.decisions));
}

/** One text for the state of sources and decisions: results made from another one are out of date. */
export async function projectStamp(project: string, decisions: MergeDecisions | null): Promise<string> {
  const db = await database();
  const rows = await db
    .selectFrom('source')
    .select(['path', 'hash'])
    .where('project', '=', project)
    .orderBy('path')
    .execute();
  const h = createHash('sha256');
  for (const r of rows) h.update(`${r.path}\0${r.hash}\n`);
  if (decisions) h.update(JSON.stringify(decisions));
  return h.digest('hex').slice(0, 24);
}

export async function viewProject(id: string | undefined): Promise<ProjectView> {
  const row = await requireProject(id);
  const db = await database();
  const decisions = await currentDecisions(row.id, row.revision);
  const sources = await db
    .selectFrom('source')
    .select(['path', 'hash', 'bytes'])
    .where('project', '=', row.id)
    .orderBy('path')
    .execute();
  const jobs = await listJobs(row.id);
  const sourceStamp = await projectStamp(row.id, null);
  const done = jobs.find((j) => j.kind === 'survey' && j.state === 'done' && j.madeFrom === sourceStamp);
  const survey = done
    ? (JSON.parse(await readFile(join(jobFolder(done.id), 'survey.json'), 'utf8')) as SurveyView)
    : null;
  return {
    id: row.id,
    name: row.name,
    revision: row.revision,
    decisions,
    sources,
    stamp: await projectStamp(row.id, decisions),
    survey,
    jobs,
  };
}

/** Stores decisions as the next revision. @throws Problem 409 when they were made on an older one */
export async function saveDecisions(id: string, input: z.infer<typeof SaveDecisions>): Promise<number> {
  const row = await requireProject(id);
  if (row.revision !== input.parent)
    throw new Problem(409, `the plan was changed elsewhere (revision ${row.revision}); it has been loaded again`);
  const db = await database();
  const number = row.revision + 1;
  const now = new Date().toISOString();
  await db.transaction().execute(async (t) => {
    const moved = await t
      .updateTable('project')
      .set({ revision: number, changed: now })
      .where('id', '=', row.id)
      .where('revision', '=', input.parent)
      .executeTakeFirst();
    if (Number(moved.numUpdatedRows) !== 1) throw new Problem(409, 'the plan was changed elsewhere');
    await t
      .insertInto('revision')
      .values({ project: row.id, number, decisions: JSON.stringify(input.decisions), created: now })
      .execute();
  });
  events.emit(row.id, { type: 'changed' });
  return number;
}

export async function deleteProject(id: string): Promise<void> {
  const row = await requireProject(id);
  const db = await database();
  await db.deleteFrom('project').where('id', '=', row.id).execute();
}
