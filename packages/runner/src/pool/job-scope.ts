import { Cancelled, InputError } from '@wembrel/core/errors';
import type { FactsCache } from '../cache/facts-cache.ts';
import { type CancelFlag, newFlag, stopped } from './cancel-flag.ts';
import type { Task } from './task.ts';
import { ThreadPool } from './thread-pool.ts';

/** Seconds that decoding so many bytes may take, far more than it ever does. */
export const decodingLimit = (bytes: number): number => 30 + Math.ceil(bytes / 1e6);

/** What one job may use: worker threads, and the flag by which it is paused and cancelled. */
export class JobScope {
  readonly threads: number;
  readonly cancel: CancelFlag;
  private readonly pool: ThreadPool;
  private readonly ownsPool: boolean;
  private working = 0;
  private readonly waiting: (() => void)[] = [];

  /**
   * @param pool the bundled worker, for threads that end with the scope, or threads that outlive it
   * @param cancel shared flag, see `cancel-flag.ts` @param cache what was found in former runs; null: everything is found anew
   */
  constructor(
    pool: string | ThreadPool,
    threads?: number,
    cancel?: CancelFlag,
    readonly cache: FactsCache | null = null,
  ) {
    this.ownsPool = typeof pool === 'string';
    this.pool = typeof pool === 'string' ? new ThreadPool(pool, threads) : pool;
    this.threads = this.pool.threads;
    this.cancel = cancel ?? newFlag();
  }

  /** Whether to stop; waits where the job is paused. */
  get cancelled(): boolean {
    return stopped(this.cancel);
  }

  /** @throws Cancelled when the flag is up */
  checkpoint(): void {
    if (this.cancelled) throw new Cancelled();
  }

  /**
   * Runs a task in a worker; tasks wait here until one is free, so that a limit counts the work alone.
   * @param seconds after which a task is given up and its thread ended: decoders that are not ours may hang on damaged files
   * @throws InputError what the task threw, or that it took too long @throws Cancelled
   */
  async run<Input, Output>(task: Task<Input, Output>, payload: Input, seconds?: number): Promise<Output> {
    this.checkpoint();
    await this.free();
    try {
      this.checkpoint();
      const signal = seconds === undefined ? undefined : AbortSignal.timeout(seconds * 1000);
      const answer = (await this.pool.run({ task: task.name, payload }, signal).catch((error: Error) => {
        if (!signal?.aborted) throw error;
        const { path = 'input', name = 'unnamed' } = payload as { path?: string; name?: string };
        return { ok: false, path, reason: `the image "${name}" cannot be decoded: it took more than ${seconds} s` };
      })) as { ok: true; value: Output } | { ok: false; path: string; reason: string };
      if (!answer.ok) throw new InputError(answer.path, answer.reason);
      return answer.value;
    } finally {
      this.working--;
      this.waiting.shift()?.();
    }
  }

  private free(): Promise<void> {
    this.working++;
    if (this.working <= this.threads) return Promise.resolve();
    return new Promise((go) => this.waiting.push(go));
  }

  async close(): Promise<void> {
    await this.cache?.trim();
    if (this.ownsPool) await this.pool.close();
  }
}
