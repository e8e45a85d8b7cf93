import { InputError } from '@wembrel/core/errors';
import { compositionTasks } from '../pictures/composition-tasks.ts';
import { pictureTasks } from '../pictures/picture-tasks.ts';
import { searchTasks } from '../plans/search-tasks.ts';
import type { Task } from '../pool/task.ts';
import { rayTasks } from '../rays/ray-tasks.ts';
import { recipeTasks } from '../recipes/recipe-tasks.ts';
import { bakeTasks } from '../stages/bake-tasks.ts';
import { profileTasks } from '../stages/profile-tasks.ts';
import { viewTasks } from '../stages/view-tasks.ts';
import { standInTasks } from '../stand-in/stand-in-tasks.ts';
import { surfaceTasks } from '../survey/surface-tasks.ts';

const TASKS = new Map<string, Task<never, unknown>>(
  [
    pictureTasks,
    compositionTasks,
    bakeTasks,
    viewTasks,
    rayTasks,
    searchTasks,
    surfaceTasks,
    profileTasks,
    standInTasks,
    recipeTasks,
  ]
    .flatMap((group) => Object.values(group))
    .map((task) => [task.name, task]),
);

/**
 * Entry of a pool thread. Errors about input keep their fields when they cross the thread border.
 * @public
 */
export default async function run(message: { task: string; payload: never }): Promise<unknown> {
  const task = TASKS.get(message.task);
  if (!task) throw new Error(`the worker has no task "${message.task}"; is its group listed in worker.ts?`);
  try {
    return { ok: true, value: await task.run(message.payload) };
  } catch (error) {
    if (error instanceof InputError) return { ok: false, path: error.path, reason: error.reason };
    throw error;
  }
}
