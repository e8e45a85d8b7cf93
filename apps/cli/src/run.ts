import { homedir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { FactsCache } from '@wembrel/runner/cache/facts-cache';
import { JobScope } from '@wembrel/runner/pool/job-scope';
import { type Values, whole } from './arguments.ts';

/** The bundled worker beside the bundled command line. */
export function workerFile(): string {
  return fileURLToPath(new URL('./worker.mjs', import.meta.url));
}

/** What a verb works with: its threads, and what former runs found unless `--no-cache` is given. */
export function jobScope(values: Values): JobScope {
  const cache = values['no-cache']
    ? null
    : new FactsCache(cacheFolder(), [fileURLToPath(import.meta.url), workerFile()]);
  return new JobScope(workerFile(), threadsOf(values), undefined, cache);
}

/** `WEMBREL_CACHE`, else a folder of its own where programs of this user keep such things. */
function cacheFolder(): string {
  const { WEMBREL_CACHE, XDG_CACHE_HOME, LOCALAPPDATA } = process.env;
  return WEMBREL_CACHE ?? join(XDG_CACHE_HOME ?? LOCALAPPDATA ?? join(homedir(), '.cache'), 'wembrel');
}

function threadsOf(values: Values): number | undefined {
  return values.threads === undefined ? undefined : whole(values, 'threads', 1, 1, 256);
}

/** Ctrl-C and the like raise the flag; the work stops at its next look and cleans up. A second signal ends at once. */
export function watchSignals(scope: JobScope): void {
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.on(signal, () => {
      if (scope.cancelled) process.exit(130);
      Atomics.store(scope.cancel, 0, 1);
    });
}

/** Ctrl-C and the like raise a flag that work on this thread looks at. A second signal ends at once. */
export function stopFlag(): () => boolean {
  let stopped = false;
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.on(signal, () => {
      if (stopped) process.exit(130);
      stopped = true;
    });
  return () => stopped;
}
