import { readdir, rm, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import type { Kysely } from 'kysely';
import { database, type Tables } from './database.ts';
import { blobPath, dataFolder } from './paths.ts';

/** ms after which what no project names is a leftover; younger, it may be on its way into one. */
const LEFT = 24 * 3600 * 1000;

/** Steps that are looked at in one go. */
const PAGE = 500;

/** Contents that any project names: as a source, a picture or a face set, now or in what can be undone. */
async function namedHashes(db: Kysely<Tables>): Promise<Set<string>> {
  const named = new Set<string>();
  const gather = (text: string) => {
    for (const [hash] of text.matchAll(/[0-9a-f]{64}/g)) named.add(hash);
  };
  for (const { state } of await db.selectFrom('project').select('state').execute()) gather(state);
  for (let from = 0; ; from += PAGE) {
    const steps = await db.selectFrom('step').select(['forward', 'inverse']).limit(PAGE).offset(from).execute();
    for (const { forward, inverse } of steps) gather(`${forward} ${inverse}`);
    if (steps.length < PAGE) break;
  }
  return named;
}

const isOld = async (path: string, now: number): Promise<boolean> => {
  const info = await stat(path).catch(() => null);
  return info !== null && now - info.mtimeMs > LEFT;
};

/**
 * Clears away uploads that broke off, and contents that no project names any more: of deleted projects, and of uploads that were refused.
 * @param now ms @returns how many files went
 */
export async function clearLeftovers(now = Date.now()): Promise<number> {
  let gone = 0;
  const clear = async (path: string) => {
    if (!(await isOld(path, now))) return;
    await rm(path, { force: true });
    gone++;
  };
  const incoming = dataFolder('incoming');
  for (const name of await readdir(incoming)) await clear(join(incoming, name));
  const named = await namedHashes(await database());
  for (const name of await readdir(dataFolder('blobs'), { recursive: true })) {
    const hash = basename(name);
    if (/^[0-9a-f]{64}$/.test(hash) && !named.has(hash)) await clear(blobPath(hash));
  }
  return gone;
}
