/** Jobs of different projects that run side by side: each uses all cores itself, so that more would only slow each other down. */
const SIDE_BY_SIDE = 2;

/** A job that runs; a paused one holds up nobody. */
export interface ActiveJob {
  project: string;
  paused: boolean;
}

const active = (running: Iterable<ActiveJob>): ActiveJob[] => [...running].filter((job) => !job.paused);

/**
 * The job that begins next, or null: one a project at a time, the oldest first.
 * @param queued the oldest first
 */
export function nextJob<Q extends { project: string }>(queued: readonly Q[], running: Iterable<ActiveJob>): Q | null {
  const busy = active(running);
  if (busy.length >= SIDE_BY_SIDE) return null;
  return queued.find((job) => !busy.some((other) => other.project === job.project)) ?? null;
}

/** Why a job of a project does not begin yet, in words. */
export function waitingFor(project: string, running: Iterable<ActiveJob>): string {
  const busy = active(running);
  if (busy.some((job) => job.project === project)) return 'waiting for another job of this project';
  return busy.length >= SIDE_BY_SIDE ? 'waiting for jobs of other projects' : 'waiting';
}
