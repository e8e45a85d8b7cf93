import { mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';

/** Root of the checkout; the launcher sets it. */
const ROOT = resolve(process.env.WEMBREL_ROOT ?? process.cwd());

/** Where projects live. */
const DATA = resolve(process.env.WEMBREL_DATA ?? join(ROOT, 'data'));

export const JOB_THREAD = join(ROOT, 'dist', 'job.mjs');
export const LIVE_THREAD = join(ROOT, 'dist', 'live.mjs');
export const POOL_WORKER = join(ROOT, 'dist', 'worker.mjs');

export function dataFolder(...parts: string[]): string {
  const folder = join(DATA, ...parts);
  mkdirSync(folder, { recursive: true });
  return folder;
}

/** File of a blob by its hash, which the server computed itself. */
export function blobPath(hash: string): string {
  if (!/^[0-9a-f]{64}$/.test(hash)) throw new Error('not a blob hash');
  return join(DATA, 'blobs', hash.slice(0, 2), hash);
}

export function jobFolder(id: string): string {
  if (!/^[0-9a-f-]{8,40}$/.test(id)) throw new Error('not a job id');
  return join(DATA, 'jobs', id);
}
