import fastJsonPatch, { type Operation } from 'fast-json-patch';
import type { Transaction } from 'kysely';
import { MergeDecisions } from '../../contract/project.ts';
import { database, type Tables } from './database.ts';
import { events } from './events.ts';
import { Problem } from './problem.ts';
import { type ProjectRow, requireProject } from './projects.ts';
import type { ProjectState } from './state.ts';

const { applyPatch, compare, deepClone } = fastJsonPatch;

const stale = (version: number) =>
  new Problem(409, `the project was changed elsewhere (version ${version}); what is there now is shown`);

/** Moves a project from the version `parent` to a new state. @throws Problem 409 when another change came first */
async function move(
  transaction: Transaction<Tables>,
  projectRow: ProjectRow,
  parent: number,
  to: { state: ProjectState; position: number },
): Promise<void> {
  const moved = await transaction
    .updateTable('project')
    .set({
      state: JSON.stringify(to.state),
      position: to.position,
      version: projectRow.version + 1,
      changed: new Date().toISOString(),
    })
    .where('id', '=', projectRow.id)
    .where('version', '=', parent)
    .executeTakeFirst();
  if (Number(moved.numUpdatedRows) !== 1) throw stale(projectRow.version);
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
  const projectRow = await requireProject(id);
  if (parent !== null && projectRow.version !== parent) throw stale(projectRow.version);
  const next = change(deepClone(projectRow.state) as ProjectState);
  const forward = compare(projectRow.state, next);
  if (forward.length === 0) return projectRow.version;
  const inverse = compare(next, projectRow.state);
  const db = await database();
  await db.transaction().execute(async (transaction) => {
    await transaction
      .deleteFrom('step')
      .where('project', '=', projectRow.id)
      .where('number', '>', projectRow.position)
      .execute();
    await transaction
      .insertInto('step')
      .values({
        project: projectRow.id,
        number: projectRow.position + 1,
        label,
        forward: JSON.stringify(forward),
        inverse: JSON.stringify(inverse),
        created: new Date().toISOString(),
      })
      .execute();
    await move(transaction, projectRow, projectRow.version, { state: next, position: projectRow.position + 1 });
  });
  events.emit(projectRow.id, { type: 'changed' });
  return projectRow.version + 1;
}

/**
 * Applies a change of the decisions that was made elsewhere, as one step.
 * @param parent version that it was made on @param patch of the decisions (RFC 6902)
 * @returns the new version @throws Problem when the patch does not fit them @throws ZodError when what comes of it is not allowed
 */
export function patchDecisions(
  id: string | undefined,
  parent: number,
  label: string,
  patch: readonly Operation[],
): Promise<number> {
  return changeProject(id, parent, label, (state) => {
    let decisions: unknown;
    try {
      decisions = applyPatch(state.decisions, [...patch], true).newDocument;
    } catch (error) {
      const { name } = error as Error;
      throw new Problem(400, `the change does not fit the decisions of version ${parent} (${name})`);
    }
    return { ...state, decisions: MergeDecisions.parse(decisions) };
  });
}

/** A step that was taken back, or done again. */
export interface Stepped {
  label: string;
  version: number;
  /** What it changed, of decisions and sources. */
  patch: Operation[];
}

/** Takes back the last step, or does the next one again. @throws Problem when there is none */
export async function stepProject(id: string | undefined, parent: number, way: 'undo' | 'redo'): Promise<Stepped> {
  const projectRow = await requireProject(id);
  if (projectRow.version !== parent) throw stale(projectRow.version);
  const db = await database();
  const number = way === 'undo' ? projectRow.position : projectRow.position + 1;
  const step = await db
    .selectFrom('step')
    .selectAll()
    .where('project', '=', projectRow.id)
    .where('number', '=', number)
    .executeTakeFirst();
  if (!step) throw new Problem(409, way === 'undo' ? 'there is nothing to undo' : 'there is nothing to redo');
  const patch = JSON.parse(way === 'undo' ? step.inverse : step.forward) as Operation[];
  const state = applyPatch(projectRow.state, patch, true, false).newDocument;
  await db.transaction().execute((transaction) =>
    move(transaction, projectRow, parent, {
      state,
      position: way === 'undo' ? projectRow.position - 1 : projectRow.position + 1,
    }),
  );
  events.emit(projectRow.id, { type: 'changed' });
  return { label: step.label, version: projectRow.version + 1, patch };
}
