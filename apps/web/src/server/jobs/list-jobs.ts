import type { JobView, Region } from '../../contract/project.ts';
import { database } from '../store/database.ts';
import { isPaused, secondsLeft } from './jobs.ts';

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
  return rows.filter((r, i) => {
    const done = r.state === 'done';
    const firstResult = done && !seen.has(keyOf(r));
    if (firstResult) seen.add(keyOf(r));
    const underWay = r.state === 'queued' || r.state === 'running';
    return i < NEWEST || underWay || firstResult || (done && stamps.includes(r.made_from));
  });
}

const keyOf = (r: Row): string => JSON.stringify([r.kind, r.sheet]);

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
  return rows.map((r) => ({
    id: r.id,
    kind: r.kind,
    sheet: r.sheet,
    region: r.region ? (JSON.parse(r.region) as Region) : null,
    state: r.state,
    paused: isPaused(r.id),
    share: r.share,
    doing: r.doing,
    left: secondsLeft(r.id),
    message: r.message,
    madeFrom: r.made_from,
    finished: r.finished,
  }));
}
