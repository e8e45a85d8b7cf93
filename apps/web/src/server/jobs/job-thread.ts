import { parentPort } from 'node:worker_threads';
import { Cancelled, InputError, sentence } from '@wembrel/core/errors';
import { type CancelFlag, newFlag, stop } from '@wembrel/runner/pool/hold';
import { Crew, Pool } from '@wembrel/runner/pool/pool';
import type { JobMessage, JobOrder, Tell } from './job-message.ts';
import { lightProject } from './kinds/light-job.ts';
import { bakeSheetAlone, mergeProject } from './kinds/merge-job.ts';
import { bakeProjectRays, findProjectReaches, warmUpRays } from './kinds/ray-job.ts';
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

const tell: Tell = (m: JobMessage) => parentPort?.postMessage(m);
let crew: Crew | null = null;

function jobOf(order: JobOrder, pool: Pool): Promise<void> {
  switch (order.kind) {
    case 'survey':
      return surveyProject(order, pool, tell);
    case 'layout':
      return layoutProject(order, pool, tell);
    case 'ray-reaches':
      return findProjectReaches(order, pool, tell);
    case 'ray-proof':
    case 'ray-final':
      return bakeProjectRays(order, pool, tell);
    case 'light':
      return lightProject(order, pool, tell);
    default:
      return order.sheet === null ? mergeProject(order, pool, tell) : bakeSheetAlone(order, pool, tell, order.sheet);
  }
}

/** What is done between jobs; it ends as soon as there is one. */
let idling: { cancel: CancelFlag; over: Promise<void> } | null = null;
let warm = false;

function warmUp(order: JobOrder, threads: Crew): void {
  if (warm || order.kind !== 'survey') return;
  const cancel = newFlag();
  const over = warmUpRays(order, new Pool(threads, undefined, cancel)).then(
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
  crew ??= new Crew(order.worker, undefined, IDLE);
  const pool = new Pool(crew, undefined, order.cancel);
  try {
    await jobOf(order, pool);
    tell({ type: 'done' });
    warmUp(order, crew);
  } catch (error) {
    if (pool.cancelled) tell({ type: 'cancelled' });
    else if (error instanceof InputError) tell({ type: 'failed', message: `${error.path}: ${error.reason}` });
    else {
      process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
      tell({ type: 'failed', message: sentence(error) });
    }
  }
});
