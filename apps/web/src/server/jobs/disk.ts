import { rm, stat, utimes } from 'node:fs/promises';
import type { DiskView, JobKind } from '../../contract/project.ts';
import { database } from '../store/database.ts';
import { clearLeftovers } from '../store/leftovers.ts';
import { log } from '../store/log.ts';
import { dataFolder, jobFolder } from '../store/paths.ts';
import { requireProject } from '../store/projects.ts';
import { folderBytes } from '../store/sizes.ts';
import { stampOf } from '../store/stamps.ts';
import { resultsToClear, type StoredResult } from './old-results.ts';

/** Bytes that results may take until somebody says otherwise. */
const DEFAULT_BOUND = 20e9;
const BOUND = 'result bytes';

/** Finished results never change. */
const sizes = new Map<string, number>();
const touched = new Set<string>();

async function bytesOf(id: string): Promise<number> {
  const known = sizes.get(id);
  if (known !== undefined) return known;
  const bytes = await folderBytes(jobFolder(id));
  sizes.set(id, bytes);
  return bytes;
}

/** Notes that a result was looked at, once a run. */
export async function markUsed(id: string): Promise<void> {
  if (touched.has(id)) return;
  touched.add(id);
  const now = new Date();
  await utimes(jobFolder(id), now, now).catch(() => {});
}

async function resultBound(): Promise<number> {
  const db = await database();
  const row = await db.selectFrom('setting').select('value').where('key', '=', BOUND).executeTakeFirst();
  return row ? Number(row.value) : DEFAULT_BOUND;
}

/** @param bytes that results of all projects may take; what is more goes at once */
export async function setResultBound(bytes: number): Promise<void> {
  const db = await database();
  const value = String(bytes);
  await db
    .insertInto('setting')
    .values({ key: BOUND, value })
    .onConflict((conflict) => conflict.column('key').doUpdateSet({ value }))
    .execute();
  await keepWithinBound();
}

/** Bytes of all finished results. */
async function resultBytes(): Promise<number> {
  const db = await database();
  const rows = await db.selectFrom('job').select('id').where('state', '=', 'done').execute();
  const all = await Promise.all(rows.map(({ id }) => bytesOf(id)));
  return all.reduce((sum, bytes) => sum + bytes, 0);
}

/** All finished results, the newest first. */
async function storedResults(): Promise<StoredResult[]> {
  const db = await database();
  const rows = await db
    .selectFrom('job')
    .innerJoin('project', 'project.id', 'job.project')
    .select(['job.id', 'job.project', 'job.kind', 'job.sheet', 'job.made_from', 'project.deleted'])
    .where('job.state', '=', 'done')
    .orderBy('job.sequence', 'desc')
    .execute();
  const projects = new Map<string, { removed: Set<string>; stamp: (kind: JobKind) => string }>();
  for (const id of new Set(rows.filter((row) => row.deleted === null).map((row) => row.project))) {
    const { state } = await requireProject(id);
    const stamps = new Map<JobKind, string>();
    projects.set(id, {
      removed: new Set(state.decisions.removedResults),
      stamp(kind) {
        const stamp = stamps.get(kind) ?? stampOf(state, kind);
        stamps.set(kind, stamp);
        return stamp;
      },
    });
  }
  return Promise.all(
    rows.map(async ({ id, project, kind, sheet, made_from, deleted }) => {
      const info = await stat(jobFolder(id)).catch(() => null);
      const own = projects.get(project);
      return {
        id,
        project,
        kind,
        sheet,
        bytes: await bytesOf(id),
        used: info?.mtimeMs ?? 0,
        // Deleted projects come back until the next start; then their results go with them.
        current: deleted !== null || own?.stamp(kind) === made_from,
        removed: own?.removed.has(id) ?? false,
      };
    }),
  );
}

/** Lets the results go that were not used for longest, where all take more than they may. */
async function keepWithinBound(): Promise<void> {
  const bound = await resultBound();
  // Nearly always; what each was made from is looked up only where something has to go.
  if ((await resultBytes()) <= bound) return;
  const gone = resultsToClear(await storedResults(), bound);
  const db = await database();
  for (const id of gone) {
    await db.deleteFrom('job').where('id', '=', id).execute();
    await rm(jobFolder(id), { recursive: true, force: true });
    sizes.delete(id);
  }
  if (gone.length > 0) log.info({ results: gone.length }, 'results cleared away, since all took more than they may');
}

/** The same behind whatever goes on, once a result is there. */
export function tidy(): void {
  keepWithinBound().catch((error) => log.error(error, 'old results could not be cleared away'));
}

const holder = globalThis as { wembrelTidied?: Promise<void> };

/** Clears away what former runs of the server left: once, behind the first request. */
export function tidyOnce(): void {
  holder.wembrelTidied ??= clearLeftovers().then(
    () => tidy(),
    (error) => log.error(error, 'leftovers could not be cleared away'),
  );
}

/** What takes room on the disk, bytes. */
export async function diskView(): Promise<DiskView> {
  const [results, sources, facts, bound] = await Promise.all([
    resultBytes(),
    folderBytes(dataFolder('blobs')),
    folderBytes(dataFolder('cache')),
    resultBound(),
  ]);
  return { results, bound, sources, facts };
}
