import { existsSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { Cancelled, InputError } from '@wembrel/core/errors';
import { Piscina } from 'piscina';
import type { CancelFlag, TaskName, Tasks } from './tasks.ts';

type Payload<K extends TaskName> = Parameters<Tasks[K]>[0];
type Result<K extends TaskName> = Awaited<ReturnType<Tasks[K]>>;

/** Worker threads for one job: as many as cores unless told otherwise. */
export class Pool {
  readonly threads: number;
  readonly cancel: CancelFlag;
  private readonly piscina: Piscina;

  /** @param workerFile the bundled worker @param cancel shared flag; not 0 means stop */
  constructor(workerFile: string, threads?: number, cancel?: CancelFlag) {
    // A pool without its file would wait for ever.
    if (!existsSync(workerFile)) throw new Error(`the worker "${workerFile}" is missing; build it first`);
    this.threads = Math.max(1, threads ?? availableParallelism());
    this.cancel = cancel ?? new Int32Array(new SharedArrayBuffer(4));
    this.piscina = new Piscina({
      filename: workerFile,
      minThreads: 0,
      maxThreads: this.threads,
      idleTimeout: 5_000,
      concurrentTasksPerWorker: 1,
    });
  }

  get cancelled(): boolean {
    return Atomics.load(this.cancel, 0) !== 0;
  }

  /** @throws Cancelled when the flag is up */
  checkpoint(): void {
    if (this.cancelled) throw new Cancelled();
  }

  async run<K extends TaskName>(task: K, payload: Payload<K>): Promise<Result<K>> {
    this.checkpoint();
    const answer = (await this.piscina.run({ task, payload })) as
      | { ok: true; value: Result<K> }
      | { ok: false; path: string; reason: string };
    if (!answer.ok) throw new InputError(answer.path, answer.reason);
    return answer.value;
  }

  async close(): Promise<void> {
    await this.piscina.destroy();
  }
}
