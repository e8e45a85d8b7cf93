import { fileURLToPath } from 'node:url';
import { parentPort } from 'node:worker_threads';
import { Cancelled, InputError, sentence } from '@wembrel/core/errors';
import { FactsCache } from '@wembrel/runner/cache/facts-cache';
import { type CancelFlag, newFlag, stop } from '@wembrel/runner/pool/cancel-flag';
import { JobScope } from '@wembrel/runner/pool/job-scope';
import { ThreadPool } from '@wembrel/runner/pool/thread-pool';
import type { Emit, JobMessage, JobOrder } from './job-message.ts';
import { lightProject } from './kinds/light-job.ts';
import { bakeSheetAlone, mergeProject } from './kinds/merge-job.ts';
import { bakeAllRays, bakeProjectRays, findProjectReaches, warmUpRays } from './kinds/ray-job.ts';
import { layRecipe } from './kinds/recipe-job.ts';
import { makeStandIn } from './kinds/stand-in-job.ts';
import { layoutProject, surveyProject } from './kinds/survey-job.ts';

/**
 * Jobs in a thread of their own, so that the server goes on answering: one after another, since what was loaded and compiled for one
 * serves the next.
 */

/** s that workers wait for the next job. */
const IDLE = 300;

// One cancelled job may say so several times, from all that it had under way.
process.on('unhandledRejection', (error) => {
  if (!(error instanceof Cancelled)) throw error;
});

const emit: Emit = (jobMessage: JobMessage) => parentPort?.postMessage(jobMessage);
let pool: ThreadPool | null = null;

function jobOf(order: JobOrder, scope: JobScope): Promise<void> {
  switch (order.kind) {
    case 'survey':
      return surveyProject(order, scope, emit);
    case 'layout':
      return layoutProject(order, scope, emit);
    case 'ray-reaches':
      return findProjectReaches(order, scope, emit);
    case 'ray-proof':
    case 'ray-final':
      return bakeProjectRays(order, scope, emit);
    case 'ray-all':
      return bakeAllRays(order, scope, emit);
    case 'stand-in-proof':
    case 'stand-in-final':
      return makeStandIn(order, scope, emit);
    case 'recipe-proof':
    case 'recipe-final':
      return layRecipe(order, scope, emit);
    case 'light':
      return lightProject(order, scope, emit);
    default:
      return order.sheet === null ? mergeProject(order, scope, emit) : bakeSheetAlone(order, scope, emit, order.sheet);
  }
}

/** What is done between jobs; it ends as soon as there is one. */
let idling: { cancel: CancelFlag; over: Promise<void> } | null = null;
let warm = false;

function warmUp(order: JobOrder, threads: ThreadPool): void {
  if (warm || order.kind !== 'survey') return;
  const cancel = newFlag();
  const over = warmUpRays(order, new JobScope(threads, undefined, cancel)).then(
    (done) => {
      warm ||= done;
    },
    // Whatever is wrong with the files will be said by the job that is asked for.
    () => {},
  );
  idling = { cancel, over };
}

parentPort?.on('message', async (order: JobOrder) => {
  if (idling) {
    stop(idling.cancel);
    await idling.over;
    idling = null;
  }
  pool ??= new ThreadPool(order.worker, undefined, IDLE);
  const scope = new JobScope(
    pool,
    undefined,
    order.cancel,
    new FactsCache(order.cache, [fileURLToPath(import.meta.url), order.worker]),
  );
  try {
    await jobOf(order, scope);
    emit({ type: 'done' });
    await scope.cache?.trim();
    warmUp(order, pool);
  } catch (error) {
    if (scope.cancelled) emit({ type: 'cancelled' });
    else if (error instanceof InputError) emit({ type: 'failed', message: `${error.path}: ${error.reason}` });
    else {
      process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
      emit({ type: 'failed', message: sentence(error) });
    }
  }
});
