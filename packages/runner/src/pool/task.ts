/** Work that a pool thread does: a function of its message. Large data comes and goes in shared memory. */
export interface Task<Input, Output> {
  /** By which the worker finds it; unique among all tasks. */
  readonly name: string;
  readonly run: (input: Input) => Promise<Output>;
}

type TaskFunctions = Record<string, (input: never) => Promise<unknown>>;

/** Tasks made from functions, one for each. */
export type TaskGroup<F extends TaskFunctions> = {
  readonly [K in keyof F]: Task<Parameters<F[K]>[0], Awaited<ReturnType<F[K]>>>;
};

/**
 * Makes tasks from functions, so that a caller names a task by its value and the types of its message and answer come with it.
 * A new group must be listed in `worker/worker.ts`.
 *
 * @example
 * export const greetTasks = taskGroup('greet', { hello: async (m: { name: string }) => `Hello, ${m.name}` });
 * await scope.run(greetTasks.hello, { name: 'Ada' }); // a string, from another thread
 */
export function taskGroup<F extends TaskFunctions>(prefix: string, functions: F): TaskGroup<F> {
  const named = Object.entries(functions).map(([key, run]) => [key, { name: `${prefix}.${key}`, run }]);
  return Object.fromEntries(named) as TaskGroup<F>;
}
