import { mkdtempSync } from 'node:fs';
import { mkdir, readdir, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import { decide, type Plan } from '../../core/test/build.ts';
import type { FactsCache } from '../src/cache/facts-cache.ts';
import { merge } from '../src/merge/merge.ts';
import type { MergeReport } from '../src/merge/report.ts';
import type { MergeRequest } from '../src/merge/request.ts';
import type { CancelFlag } from '../src/pool/cancel-flag.ts';
import { JobScope } from '../src/pool/job-scope.ts';
import { ThreadPool } from '../src/pool/thread-pool.ts';
import { collectModels } from '../src/read/collect.ts';

/** The bundled worker; `./wembrel test` builds it first. */
export const WORKER = fileURLToPath(new URL('../../../dist/worker.mjs', import.meta.url));

const pools = new Map<number, ThreadPool>();

/** A job of its own, on threads that all tests of a process share: each takes half a second to start. */
export function testScope(more: { threads?: number; cancel?: CancelFlag; cache?: FactsCache } = {}): JobScope {
  const { threads = 2, cancel, cache } = more;
  const pool = pools.get(threads) ?? new ThreadPool(WORKER, threads, 300);
  pools.set(threads, pool);
  return new JobScope(pool, undefined, cancel, cache);
}

export function folder(): string {
  return mkdtempSync(join(tmpdir(), 'wembrel-test-'));
}

export async function put(files: Record<string, Uint8Array>): Promise<string> {
  const at = folder();
  for (const [name, bytes] of Object.entries(files)) {
    await mkdir(dirname(join(at, name)), { recursive: true });
    await writeFile(join(at, name), bytes);
  }
  return at;
}

/** How like its original a result looks. @throws Error where it was not compared */
export function fidelityOf({ fidelity }: Pick<MergeReport, 'fidelity'>): NonNullable<MergeReport['fidelity']> {
  if (!fidelity) throw new Error('the result was not compared');
  return fidelity;
}

/** All files below a folder by relative name. */
export async function take(at: string): Promise<Record<string, Uint8Array>> {
  const out: Record<string, Uint8Array> = {};
  const entries = await readdir(at, { recursive: true, withFileTypes: true });
  for (const entry of entries)
    if (entry.isFile()) {
      const path = join(entry.parentPath, entry.name);
      out[relative(at, path)] = new Uint8Array(await readFile(path));
    }
  return out;
}

/** Merges a folder; pictures are small unless the test is about them. */
export async function mergeFolder(
  input: string,
  out: string,
  plan: Plan,
  threads = 2,
  more: Partial<MergeRequest> = {},
) {
  const { files, textures } = await collectModels([input]);
  return merge({ files, textures, out, decisions: decide(plan), picture: 128, ...more }, testScope({ threads }));
}
