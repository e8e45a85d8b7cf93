import { Readable } from 'node:stream';
import { APART, evenSheets } from '@wembrel/core/plan/decisions';
import { buildScenario } from '@wembrel/demo/scenario';
import { MergeDecisions } from '../contract/project.ts';
import { database } from './database.ts';
import { ensureSurvey } from './jobs.ts';
import { changeProject, createProject } from './projects.ts';
import { changeSources, type StoredSource, storeUpload } from './sources.ts';

export const DEMO_NAME = 'Quillmoor Halt';

/** The demo project; made at the first call, with the plan that the scenario asks for. */
export async function demoProject(): Promise<string> {
  const db = await database();
  const there = await db
    .selectFrom('project')
    .select('id')
    .where('name', '=', DEMO_NAME)
    .where('deleted', 'is', null)
    .orderBy('created')
    .executeTakeFirst();
  if (there) return there.id;
  const id = await createProject(DEMO_NAME);
  const stored: StoredSource[] = [];
  for (const [path, bytes] of Object.entries(buildScenario()))
    if (path.startsWith('furniture/')) stored.push(...(await storeUpload(path, Readable.from([bytes]))));
  await changeSources(id, stored, []);
  await changeProject(id, null, 'Plan of the demo', (state) => ({
    ...state,
    decisions: MergeDecisions.parse({
      sheets: evenSheets(1, 'halt', 2048, 12),
      routes: { ShelterGlass: APART },
      join: true,
    }),
  }));
  await ensureSurvey(id);
  return id;
}
