import type { JobView, Region } from '../../contract/project.ts';
import { database } from '../store/database.ts';
import { isComparing, isPaused, secondsLeft, whyWaiting } from './jobs.ts';

/** Jobs that are listed whatever came of them. */
const NEWEST = 12;

interface Row {
  id: string;
  kind: string;
  sheet: string | null;
  state: string;
  made_from: string;
}

/**
 * Which jobs pages need: those under way, the newest, the newest result of each kind and sheet, and, however old they are, results that were made
 * from what is decided now.
 * @param rows the newest first @param stamps of what is decided now
 */
export function jobsToList<R extends Row>(rows: readonly R[], stamps: readonly string[]): R[] {
  const seen = new Set<string>();
  return rows.filter((row, i) => {
    const done = row.state === 'done';
    const firstResult = done && !seen.has(keyOf(row));
    if (firstResult) seen.add(keyOf(row));
    const underWay = row.state === 'queued' || row.state === 'running';
    return i < NEWEST || underWay || firstResult || (done && stamps.includes(row.made_from));
  });
}

const keyOf = (row: Row): string => JSON.stringify([row.kind, row.sheet]);

/** Jobs of a project, the newest first; see `jobsToList`. */
export async function listJobs(project: string, stamps: readonly string[]): Promise<JobView[]> {
  const db = await database();
  const known = await db
    .selectFrom('job')
    .select(['id', 'kind', 'sheet', 'state', 'made_from'])
    .where('project', '=', project)
    .orderBy('sequence', 'desc')
    .execute();
  const wanted = jobsToList(known, stamps).map((r) => r.id);
  const rows = await db.selectFrom('job').selectAll().where('id', 'in', wanted).orderBy('sequence', 'desc').execute();
  return rows.map((row) => ({
    id: row.id,
    kind: row.kind,
    sheet: row.sheet,
    region: row.region ? (JSON.parse(row.region) as Region) : null,
    state: row.state,
    paused: isPaused(row.id),
    comparing: isComparing(row.id),
    share: row.share,
    doing: row.state === 'queued' ? whyWaiting(row.project) : row.doing,
    left: secondsLeft(row.id),
    message: row.message,
    madeFrom: row.made_from,
    finished: row.finished,
  }));
}
