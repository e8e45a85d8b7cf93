import { existsSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { Piscina } from 'piscina';

/** Worker threads: as many as cores unless given otherwise. They may outlive a job, see `JobScope`. */
export class ThreadPool {
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

  /** @param message the name of a task and its message @param signal ends the thread that works on it */
  run(message: { task: string; payload: unknown }, signal?: AbortSignal): Promise<unknown> {
    return this.piscina.run(message, { signal });
  }

  async close(): Promise<void> {
    await this.piscina.destroy();
  }
}
