import { existsSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { Cancelled, InputError } from '@wembrel/core/errors';
import { Piscina } from 'piscina';
import { type CancelFlag, newFlag, stopped } from './hold.ts';
import type { TaskName, Tasks } from './tasks.ts';

type Payload<K extends TaskName> = Parameters<Tasks[K]>[0];
type Result<K extends TaskName> = Awaited<ReturnType<Tasks[K]>>;

/** Seconds that decoding so many bytes may take, far more than it ever does. */
export const decodingLimit = (bytes: number): number => 30 + Math.ceil(bytes / 1e6);

/** Worker threads: as many as cores unless told otherwise. */
export class Crew {
  readonly threads: number;
  private readonly piscina: Piscina;

  /** @param workerFile the bundled worker @param idle s after which a thread without work ends */
  constructor(workerFile: string, threads?: number, idle = 5) {
    // A pool without its file would wait for ever.
    if (!existsSync(workerFile)) throw new Error(`the worker "${workerFile}" is missing; build it first`);
    this.threads = Math.max(1, threads ?? availableParallelism());
    this.piscina = new Piscina({
      filename: workerFile,
      minThreads: 0,
      maxThreads: this.threads,
      idleTimeout: idle * 1000,
      concurrentTasksPerWorker: 1,
    });
  }

  run(message: { task: TaskName; payload: unknown }, signal?: AbortSignal): Promise<unknown> {
    return this.piscina.run(message, { signal });
  }

  async close(): Promise<void> {
    await this.piscina.destroy();
  }
}

/** What one job does in worker threads. */
export class Pool {
  readonly threads: number;
  readonly cancel: CancelFlag;
  private readonly crew: Crew;
  private readonly own: boolean;
  private working = 0;
  private readonly waiting: (() => void)[] = [];

  /**
   * @param crew the bundled worker, for threads that end with the pool, or threads that outlive it
   * @param cancel shared flag, see `hold.ts`
   */
  constructor(crew: string | Crew, threads?: number, cancel?: CancelFlag) {
    this.own = typeof crew === 'string';
    this.crew = typeof crew === 'string' ? new Crew(crew, threads) : crew;
    this.threads = this.crew.threads;
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
  async run<K extends TaskName>(task: K, payload: Payload<K>, seconds?: number): Promise<Result<K>> {
    this.checkpoint();
    await this.free();
    try {
      this.checkpoint();
      const signal = seconds === undefined ? undefined : AbortSignal.timeout(seconds * 1000);
      const answer = (await this.crew.run({ task, payload }, signal).catch((error: Error) => {
        if (!signal?.aborted) throw error;
        const { path = 'the pile', name = 'picture' } = payload as { path?: string; name?: string };
        return { ok: false, path, reason: `the image "${name}" cannot be decoded: it took more than ${seconds} s` };
      })) as { ok: true; value: Result<K> } | { ok: false; path: string; reason: string };
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
    if (this.own) await this.crew.close();
  }
}
