import { InputError } from '@wembrel/core/errors';
import { type TaskName, tasks } from './tasks.ts';

/** Entry of a pool thread. Errors about input keep their fields when they cross the thread border. */
export default async function run(message: { task: TaskName; payload: never }): Promise<unknown> {
  try {
    return { ok: true, value: await tasks[message.task](message.payload) };
  } catch (error) {
    if (error instanceof InputError) return { ok: false, path: error.path, reason: error.reason };
    throw error;
  }
}
