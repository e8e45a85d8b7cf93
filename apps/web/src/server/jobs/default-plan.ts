import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { type DefaultPlan, isUntouchedPlan } from '@wembrel/core/decisions/untouched';
import { Problem } from '../store/problem.ts';
import { changeProject } from '../store/steps.ts';

/** Where a survey leaves the plan that it made, in its folder. */
export const PLAN_FILE = 'plan.json';

/** Takes the plan that a survey made for the files, unless somebody has changed the plan meanwhile. */
export async function takeDefaultPlan(project: string, folder: string): Promise<void> {
  const text = await readFile(join(folder, PLAN_FILE), 'utf8').catch(() => null);
  if (text === null) return;
  const plan = JSON.parse(text) as DefaultPlan;
  const take = () =>
    changeProject(project, null, 'Plan for these files', (state) =>
      isUntouchedPlan(state.decisions) ? { ...state, decisions: { ...state.decisions, ...plan } } : state,
    );
  try {
    await take();
  } catch (error) {
    // Another change came first: once more, on what is there now.
    if (!(error instanceof Problem)) throw error;
    await take().catch(() => 0);
  }
}
