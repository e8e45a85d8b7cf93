import { randomUUID } from 'node:crypto';
import { MergeDecisions } from '../../contract/project.ts';
import { database } from './database.ts';
import { events } from './events.ts';
import { Problem } from './problem.ts';
import type { ProjectState } from './state.ts';

export interface ProjectRow {
  id: string;
  name: string;
  version: number;
  /** How many steps are applied; those behind it can be done again. */
  position: number;
  state: ProjectState;
  /** Name of the folder that it follows. */
  watch: string | null;
}

/** A stored state; decisions that came with a later version take their first values. */
export function readState(json: string): ProjectState {
  const { decisions, sources } = JSON.parse(json) as ProjectState;
  return { decisions: MergeDecisions.parse(decisions), sources };
}

const emptyState = (): ProjectState => ({ decisions: MergeDecisions.parse({}), sources: {} });

async function insert(name: string, state: ProjectState): Promise<string> {
  const db = await database();
  const id = randomUUID();
  const now = new Date().toISOString();
  await db
    .insertInto('project')
    .values({
      id,
      name,
      created: now,
      changed: now,
      version: 1,
      position: 0,
      state: JSON.stringify(state),
      deleted: null,
      watch: null,
    })
    .execute();
  return id;
}

export const createProject = (name: string): Promise<string> => insert(name, emptyState());

export async function requireProject(id: string | undefined): Promise<ProjectRow> {
  const db = await database();
  const row = await db
    .selectFrom('project')
    .selectAll()
    .where('id', '=', id ?? '')
    .where('deleted', 'is', null)
    .executeTakeFirst();
  if (!row) throw new Problem(404, 'there is no such project');
  return {
    id: row.id,
    name: row.name,
    version: row.version,
    position: row.position,
    state: readState(row.state),
    watch: row.watch,
  };
}

export async function renameProject(id: string | undefined, name: string): Promise<void> {
  const projectRow = await requireProject(id);
  const db = await database();
  await db
    .updateTable('project')
    .set({ name, changed: new Date().toISOString() })
    .where('id', '=', projectRow.id)
    .execute();
  events.emit(projectRow.id, { type: 'changed' });
}

/** A second project with the same sources and decisions; results and steps stay with the first. */
export async function duplicateProject(id: string | undefined): Promise<string> {
  const projectRow = await requireProject(id);
  return insert(`${projectRow.name} (copy)`.slice(0, 80), projectRow.state);
}

/** Puts a project aside; `restoreProject` brings it back until the next start of the server. */
export async function deleteProject(id: string | undefined): Promise<void> {
  const projectRow = await requireProject(id);
  const db = await database();
  await db.updateTable('project').set({ deleted: new Date().toISOString() }).where('id', '=', projectRow.id).execute();
}

export async function restoreProject(id: string | undefined): Promise<void> {
  const db = await database();
  const done = await db
    .updateTable('project')
    .set({ deleted: null })
    .where('id', '=', id ?? '')
    .where('deleted', 'is not', null)
    .executeTakeFirst();
  if (Number(done.numUpdatedRows) !== 1) throw new Problem(404, 'that project no longer exists');
}

/** Name of the folder whose files a project follows, if any. */
export async function followFolder(id: string, name: string | null): Promise<void> {
  const db = await database();
  await db.updateTable('project').set({ watch: name }).where('id', '=', id).execute();
  events.emit(id, { type: 'changed' });
}

/** Projects that follow a folder. */
export async function followers(name: string): Promise<string[]> {
  const db = await database();
  const rows = await db
    .selectFrom('project')
    .select('id')
    .where('watch', '=', name)
    .where('deleted', 'is', null)
    .execute();
  return rows.map((row) => row.id);
}
