import { type TrialLoad, trialLoad } from '@wembrel/runner/trial/trial-load';

/** Trials that were made lately, by job: a delivery never changes. */
const made = new Map<string, Promise<TrialLoad>>();
const MOST = 8;

/** Loads the delivery of a job as an engine would; each is loaded once. The validator has seen its models when they were written. */
export function trialOf(job: string, folder: string): Promise<TrialLoad> {
  const known = made.get(job);
  if (known) return known;
  const fresh = trialLoad(folder, { validate: false });
  made.set(job, fresh);
  fresh.catch(() => made.delete(job));
  const [oldest] = made.keys();
  if (made.size > MOST && oldest !== undefined) made.delete(oldest);
  return fresh;
}
