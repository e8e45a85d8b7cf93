import { Readable } from 'node:stream';
import { buildScenario } from '@wembrel/demo/scenario';
import { MergeDecisions } from '../contract/project.ts';
import { database } from './database.ts';
import { startJob } from './jobs.ts';
import { createProject, saveDecisions } from './projects.ts';
import { addSource } from './sources.ts';

export const DEMO_NAME = 'Quillmoor Halt';

/** The demo project; made at the first call, with the plan that the scenario asks for. */
export async function demoProject(): Promise<string> {
  const db = await database();
  const there = await db
    .selectFrom('project')
    .select('id')
    .where('name', '=', DEMO_NAME)
    .orderBy('created')
    .executeTakeFirst();
  if (there) return there.id;
  const id = await createProject(DEMO_NAME);
  for (const [path, bytes] of Object.entries(buildScenario()))
    if (path.startsWith('furniture/')) await addSource(id, path, Readable.from([bytes]));
  await saveDecisions(id, {
    parent: 1,
    decisions: MergeDecisions.parse({ sheetName: 'halt', keepApart: ['ShelterGlass'], join: true }),
  });
  await startJob(id, 'survey');
  return id;
}
