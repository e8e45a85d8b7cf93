import { Readable } from 'node:stream';
import { BUDGETS } from '@wembrel/core/decisions/budget';
import { APART } from '@wembrel/core/decisions/rules';
import { evenSheets } from '@wembrel/core/decisions/sheets';
import { StandInSpec } from '@wembrel/core/decisions/stand-in';
import { buildNewsKiosk } from '@wembrel/demo/news-kiosk';
import { buildScenario } from '@wembrel/demo/scenario';
import { buildSigns } from '@wembrel/demo/signs';
import type { z } from 'zod';
import { MergeDecisions, type OpenDemo } from '../../contract/project.ts';
import { ensureSurvey } from '../jobs/jobs.ts';
import { database } from '../store/database.ts';
import { createProject } from '../store/projects.ts';
import { changeSources, type StoredSource, storeUpload } from '../store/sources.ts';
import { changeProject } from '../store/steps.ts';
import { dressedDecisions, dressedFiles } from './dressed.ts';
import { postDecisions } from './posts.ts';
import { surfaceDecisions } from './surfaces.ts';

const DEMO_NAME = 'Quillmoor Halt';

const KIOSK = 'kiosk/news-kiosk.glb';

type DemoPart = z.infer<typeof OpenDemo>['part'];

interface Part {
  name: string;
  files: () => Record<string, Uint8Array>;
  decisions: () => Partial<MergeDecisions>;
}

const only = (folder: string, files: Record<string, Uint8Array>) =>
  Object.fromEntries(Object.entries(files).filter(([path]) => path.startsWith(folder)));

const PARTS: Record<DemoPart, Part> = {
  furniture: {
    name: DEMO_NAME,
    files: () => only('furniture/', buildScenario()),
    decisions: () => ({
      // What a plan for the files finds: nothing needs a square.
      sheets: evenSheets(1, 'halt', 2048, 12).map((sheet) => ({ ...sheet, height: 1024 })),
      scale: 'detail',
      routes: [{ slot: 'ShelterGlass', to: APART }],
      join: true,
    }),
  },
  signs: {
    name: `${DEMO_NAME}, forty signs`,
    files: () => Object.fromEntries(Object.entries(buildSigns()).map(([name, bytes]) => [`signs/${name}`, bytes])),
    // One texture for all: a plan for the files keeps them apart, since nothing is gained by a sheet.
    decisions: () => ({}),
  },
  surfaces: {
    name: `${DEMO_NAME}, platform and rails`,
    files: () =>
      Object.fromEntries(
        Object.entries(buildScenario()).filter(([path]) =>
          /^pieces\/(platform|rails|ramp-rail|ferns|tram-body|shelter-walls)/.test(path),
        ),
      ),
    decisions: surfaceDecisions,
  },
  posts: {
    name: `${DEMO_NAME}, ticket post and lamps`,
    files: () => only('posts/', buildScenario()),
    decisions: postDecisions,
  },
  dressed: {
    name: `${DEMO_NAME}, dressed by recipes`,
    files: dressedFiles,
    decisions: dressedDecisions,
  },
  kiosk: {
    name: `${DEMO_NAME}, news kiosk`,
    files: () => ({ [KIOSK]: buildNewsKiosk() }),
    decisions: () => ({
      standIns: [{ model: KIOSK, spec: StandInSpec.parse({ goal: { triangles: 25_000 }, distance: 8 }) }],
    }),
  },
  everything: {
    name: `${DEMO_NAME}, everything`,
    files: buildScenario,
    decisions: () => ({
      sheets: evenSheets(1, 'halt', 2048, 12),
      routes: [{ slot: 'ShelterGlass', to: APART }],
      budget: BUDGETS.headset,
    }),
  },
};

/** A demo project; made at the first call, with the plan that the scenario asks for. */
export async function demoProject(which: DemoPart = 'furniture'): Promise<string> {
  const part = PARTS[which];
  const db = await database();
  const there = await db
    .selectFrom('project')
    .select('id')
    .where('name', '=', part.name)
    .where('deleted', 'is', null)
    .orderBy('created')
    .executeTakeFirst();
  if (there) return there.id;
  const id = await createProject(part.name);
  const stored: StoredSource[] = [];
  for (const [path, bytes] of Object.entries(part.files()))
    stored.push(...(await storeUpload(path, Readable.from([bytes]))));
  await changeSources(id, stored, []);
  await changeProject(id, null, 'Plan of the demo', (state) => ({
    ...state,
    decisions: MergeDecisions.parse(part.decisions()),
  }));
  await ensureSurvey(id);
  return id;
}
