import { createHash, randomUUID } from 'node:crypto';
import { canonicalJson } from '@wembrel/core/canonical-json';
import { planOf } from '@wembrel/core/decisions/decisions';
import { facesRead } from '@wembrel/core/decisions/face-decisions';
import fastJsonPatch, { type Operation } from 'fast-json-patch';
import type { Transaction } from 'kysely';
import { type JobKind, MergeDecisions, type ProjectSummary } from '../../contract/project.ts';
import { database, type Tables } from './database.ts';
import { events } from './events.ts';
import { Problem } from './problem.ts';

const { applyPatch, compare, deepClone } = fastJsonPatch;

/** All that undo covers: what is decided, and which files there are. */
export interface ProjectState {
  decisions: MergeDecisions;
  /** Logical path → blob. */
  sources: Record<string, { hash: string; bytes: number }>;
}

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
function readState(json: string): ProjectState {
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

export async function listProjects(): Promise<ProjectSummary[]> {
  const db = await database();
  const rows = await db
    .selectFrom('project')
    .selectAll()
    .where('deleted', 'is', null)
    .orderBy('changed', 'desc')
    .execute();
  return rows.map((r) => {
    const { sources } = JSON.parse(r.state) as ProjectState;
    return { id: r.id, name: r.name, changed: r.changed, sources: Object.keys(sources).length };
  });
}

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

/** What a kind of job reads of the decisions. */
function decisionsRead(kind: JobKind, d: MergeDecisions): unknown {
  const { reading, repairs } = d;
  const faces = facesRead(d.faces);
  if (kind === 'survey') return { reading, faces };
  if (kind === 'ray-proof' || kind === 'ray-final' || kind === 'ray-reaches') return { reading, faces, rays: d.rays };
  if (kind === 'light') return { reading, faces, light: d.light };
  if (kind === 'layout') {
    const { routes, rules, weights, bakeRepeats, cutRepeats, keepTurn, vertexColours, maxRepeats, keepAll } = d;
    const sheets = d.sheets.map(({ id, kind, size, height }) => ({ id, kind, size, height }));
    return {
      reading,
      faces,
      repairs,
      routes,
      rules,
      weights,
      bakeRepeats,
      cutRepeats,
      keepTurn,
      vertexColours,
      maxRepeats,
      keepAll,
      sheets,
    };
  }
  // Names are checked on what was written.
  const { requiredNames, requiredTextures, compareAt } = d;
  return { ...planOf(d), reading, faces, repairs, requiredNames, requiredTextures, compareAt };
}

/** One text for the files and how they are read, whatever is done to their faces. */
export function filesStamp(state: ProjectState): string {
  const h = createHash('sha256');
  for (const path of Object.keys(state.sources).sort()) h.update(`${path}\0${state.sources[path].hash}\n`);
  h.update(canonicalJson(state.decisions.reading));
  return h.digest('hex').slice(0, 24);
}

/** One text for all that a kind of job reads: results made from another one are out of date. */
export function stampOf(state: ProjectState, kind: JobKind): string {
  const h = createHash('sha256');
  for (const path of Object.keys(state.sources).sort()) h.update(`${path}\0${state.sources[path].hash}\n`);
  h.update(canonicalJson(decisionsRead(kind, state.decisions)));
  return h.digest('hex').slice(0, 24);
}

const stale = (version: number) =>
  new Problem(409, `the project was changed elsewhere (version ${version}); what is there now is shown`);

/** Moves a project from the version `parent` to a new state. @throws Problem 409 when another change came first */
async function move(
  t: Transaction<Tables>,
  p: ProjectRow,
  parent: number,
  to: { state: ProjectState; position: number },
): Promise<void> {
  const moved = await t
    .updateTable('project')
    .set({
      state: JSON.stringify(to.state),
      position: to.position,
      version: p.version + 1,
      changed: new Date().toISOString(),
    })
    .where('id', '=', p.id)
    .where('version', '=', parent)
    .executeTakeFirst();
  if (Number(moved.numUpdatedRows) !== 1) throw stale(p.version);
}

/**
 * Stores a change as one step that can be undone; steps that had been undone before are forgotten.
 * @param parent version that the change was made on; null takes the present one (changes that cannot clash)
 * @returns the new version
 */
export async function changeProject(
  id: string | undefined,
  parent: number | null,
  label: string,
  change: (state: ProjectState) => ProjectState,
): Promise<number> {
  const p = await requireProject(id);
  if (parent !== null && p.version !== parent) throw stale(p.version);
  const next = change(deepClone(p.state) as ProjectState);
  const forward = compare(p.state, next);
  if (forward.length === 0) return p.version;
  const inverse = compare(next, p.state);
  const db = await database();
  await db.transaction().execute(async (t) => {
    await t.deleteFrom('step').where('project', '=', p.id).where('number', '>', p.position).execute();
    await t
      .insertInto('step')
      .values({
        project: p.id,
        number: p.position + 1,
        label,
        forward: JSON.stringify(forward),
        inverse: JSON.stringify(inverse),
        created: new Date().toISOString(),
      })
      .execute();
    await move(t, p, p.version, { state: next, position: p.position + 1 });
  });
  events.emit(p.id, { type: 'changed' });
  return p.version + 1;
}

/** Takes back the last step, or does the next one again. Returns its label. @throws Problem when there is none */
export async function stepProject(id: string | undefined, parent: number, way: 'undo' | 'redo'): Promise<string> {
  const p = await requireProject(id);
  if (p.version !== parent) throw stale(p.version);
  const db = await database();
  const number = way === 'undo' ? p.position : p.position + 1;
  const step = await db
    .selectFrom('step')
    .selectAll()
    .where('project', '=', p.id)
    .where('number', '=', number)
    .executeTakeFirst();
  if (!step) throw new Problem(409, way === 'undo' ? 'there is nothing to undo' : 'there is nothing to do again');
  const patch = JSON.parse(way === 'undo' ? step.inverse : step.forward) as Operation[];
  const state = applyPatch(p.state, patch, true).newDocument;
  await db
    .transaction()
    .execute((t) => move(t, p, parent, { state, position: way === 'undo' ? p.position - 1 : p.position + 1 }));
  events.emit(p.id, { type: 'changed' });
  return step.label;
}

export async function renameProject(id: string | undefined, name: string): Promise<void> {
  const p = await requireProject(id);
  const db = await database();
  await db.updateTable('project').set({ name, changed: new Date().toISOString() }).where('id', '=', p.id).execute();
  events.emit(p.id, { type: 'changed' });
}

/** A second project with the same sources and decisions; results and steps stay with the first. */
export async function duplicateProject(id: string | undefined): Promise<string> {
  const p = await requireProject(id);
  return insert(`${p.name} (copy)`.slice(0, 80), p.state);
}

/** Puts a project aside; `restoreProject` brings it back until the next start of the server. */
export async function deleteProject(id: string | undefined): Promise<void> {
  const p = await requireProject(id);
  const db = await database();
  await db.updateTable('project').set({ deleted: new Date().toISOString() }).where('id', '=', p.id).execute();
}

export async function restoreProject(id: string | undefined): Promise<void> {
  const db = await database();
  const done = await db
    .updateTable('project')
    .set({ deleted: null })
    .where('id', '=', id ?? '')
    .where('deleted', 'is not', null)
    .executeTakeFirst();
  if (Number(done.numUpdatedRows) !== 1) throw new Problem(404, 'that project is not there any more');
}

/** The folder that a project follows, by its name, or none. */
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
  return rows.map((r) => r.id);
}
