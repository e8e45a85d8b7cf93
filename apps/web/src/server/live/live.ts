import { Worker } from 'node:worker_threads';
import { newFlag, stop } from '@wembrel/runner/pool/cancel-flag';
import { joinLive } from '../../contract/live-bytes.ts';
import type { LiveQuestion } from '../../contract/live-recipe.ts';
import { events } from '../store/events.ts';
import { LIVE_THREAD } from '../store/paths.ts';
import { Problem } from '../store/problem.ts';
import type { LiveMessage, LiveOrder } from './live-message.ts';
import { liveOrder } from './live-order.ts';

/** ms without a question after which the thread ends, with all that it holds. */
const IDLE = 300_000;

interface Live {
  worker: Worker | null;
  /** Questions are answered one after another. */
  tail: Promise<unknown>;
  timer: NodeJS.Timeout | null;
}

const holder = globalThis as { wembrelLive?: Live };
holder.wembrelLive ??= { worker: null, tail: Promise.resolve(), timer: null };
const state = holder.wembrelLive;

/** Who asked has gone, or asks something else by now. */
const gone = () => new Problem(499, 'nobody waits for the answer any more');

/**
 * Answers a question about a recipe that is tuned.
 * @param signal raised when nobody waits for the answer any more @returns bytes, see `live-bytes.ts` @throws Problem
 */
export function askLive(
  projectId: string | undefined,
  question: LiveQuestion,
  signal: AbortSignal,
): Promise<Uint8Array<ArrayBuffer>> {
  const answer = state.tail.then(async () => {
    if (signal.aborted) throw gone();
    // As the project stands when its turn comes.
    const { project, order } = await liveOrder(projectId, question);
    return ask(project, order, signal);
  });
  state.tail = answer.catch(() => {});
  return answer;
}

async function ask(project: string, order: Omit<LiveOrder, 'cancel'>, signal: AbortSignal) {
  if (state.timer) clearTimeout(state.timer);
  const worker = state.worker ?? new Worker(LIVE_THREAD);
  state.worker = worker;
  const cancel = newFlag();
  const give = () => stop(cancel);
  signal.addEventListener('abort', give);
  worker.ref();
  try {
    const end = await answerOf(worker, { ...order, cancel }, (share, doing) =>
      events.emit(project, { type: 'progress', id: 'live', share, doing, left: null }),
    );
    if (end.type === 'cancelled') throw gone();
    if (end.type === 'failed') throw new Problem(end.known ? 422 : 500, end.message);
    return joinLive(end.head, end.blocks);
  } finally {
    signal.removeEventListener('abort', give);
    worker.unref();
    state.timer = setTimeout(() => endThread(worker), IDLE).unref();
  }
}

function endThread(worker: Worker): void {
  if (state.worker === worker) state.worker = null;
  void worker.terminate();
}

type Last = Exclude<LiveMessage, { type: 'progress' }>;

function answerOf(worker: Worker, order: LiveOrder, told: (share: number, doing: string) => void): Promise<Last> {
  return new Promise((resolve, reject) => {
    const over = (end: () => void) => {
      worker.off('message', hear);
      worker.off('error', broken);
      worker.off('exit', left);
      end();
    };
    const hear = (message: LiveMessage) => {
      if (message.type === 'progress') told(message.share, message.doing);
      else over(() => resolve(message));
    };
    const broken = (error: Error) => over(() => reject(error));
    const left = () => {
      if (state.worker === worker) state.worker = null;
      over(() => reject(new Problem(500, 'the work ended unexpectedly')));
    };
    worker.on('message', hear).on('error', broken).on('exit', left);
    worker.postMessage(order);
  });
}
