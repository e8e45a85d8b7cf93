import { statSync } from 'node:fs';
import { Worker } from 'node:worker_threads';
import type { JobMessage, JobOrder } from './job-message.ts';

/** ms that a thread waits for its next job. */
const IDLE = 300_000;
/** Bytes of the whole server above which a thread ends with its job, so that what it held is given back. */
const MOST = 1.5e9;

type LastMessage = Extract<JobMessage, { type: 'done' | 'cancelled' | 'failed' }>;
/** What a job tells before its end. */
export type JobNews = Exclude<JobMessage, LastMessage>;
/** How a job came to its end; `ended`: its thread did, without a word. */
export type JobEnd = LastMessage | { type: 'ended'; error: Error | null };

/** A thread that does one job after another. */
export class JobThread {
  private readonly worker: Worker;
  private hear: ((jobMessage: JobMessage) => void) | null = null;
  private ended: ((error: Error | null) => void) | null = null;
  alive = true;

  /** @param file the bundled thread */
  constructor(file: string) {
    this.worker = new Worker(file);
    // They stay: a worker without listeners stops its port for good.
    this.worker.on('message', (message: JobMessage) => this.hear?.(message));
    this.worker.on('error', (error) => this.over(error));
    this.worker.on('exit', () => this.over(null));
  }

  private over(error: Error | null): void {
    this.alive = false;
    this.ended?.(error);
  }

  /** Does a job. @param told of what comes before its end */
  async run(order: JobOrder, onMessage: (news: JobNews) => void): Promise<JobEnd> {
    this.worker.ref();
    const end = await new Promise<JobEnd>((resolve) => {
      this.ended = (error) => resolve({ type: 'ended', error });
      this.hear = (message) => {
        if (message.type === 'done' || message.type === 'cancelled' || message.type === 'failed') resolve(message);
        else onMessage(message);
      };
      this.worker.postMessage(order);
    });
    this.hear = null;
    this.ended = null;
    this.worker.unref();
    return end;
  }

  /** Ends it, with all that it holds. */
  end(): void {
    void this.worker.terminate();
  }
}

/**
 * Keeps the thread that has done a job for the next one: its code and that of its workers is loaded, and compiled well by what it has done.
 * A first proof takes several times as long as those after it.
 */
export class WarmThread {
  private waiting: { thread: JobThread; timer: NodeJS.Timeout; built: number } | null = null;
  /** When the bundle was built that each thread runs. */
  private readonly builtOf = new WeakMap<JobThread, number>();

  constructor(private readonly file: string) {}

  /** The thread that waits, or a new one. One that runs an older bundle than there is (while developing) ends. */
  take(): JobThread {
    const { waiting } = this;
    this.waiting = null;
    if (!waiting) return this.fresh();
    clearTimeout(waiting.timer);
    if (waiting.thread.alive && waiting.built === this.built()) return waiting.thread;
    waiting.thread.end();
    return this.fresh();
  }

  private built(): number {
    return statSync(this.file).mtimeMs;
  }

  private fresh(): JobThread {
    const built = this.built();
    const thread = new JobThread(this.file);
    this.builtOf.set(thread, built);
    return thread;
  }

  /** Lets a thread wait for the next job. */
  keep(thread: JobThread): void {
    if (this.waiting || process.memoryUsage.rss() > MOST) {
      thread.end();
      return;
    }
    const timer = setTimeout(() => {
      if (this.waiting?.thread === thread) this.waiting = null;
      thread.end();
    }, IDLE).unref();
    this.waiting = { thread, timer, built: this.builtOf.get(thread) ?? 0 };
  }
}
