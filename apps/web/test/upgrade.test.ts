import { createHash } from 'node:crypto';
import { mkdtempSync } from 'node:fs';
import { mkdir, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { canonicalJson } from '@wembrel/core/canonical-json';
import { MergeDecisions, PLAN_KEYS } from '@wembrel/core/decisions/decisions';
import { faceText, parseFaceText } from '@wembrel/core/decisions/face-list';
import { faceSetHash } from '@wembrel/core/decisions/face-sets';
import { PairingDecision } from '@wembrel/core/decisions/ray-decisions';
import { beforeAll, expect, test } from 'vitest';

const data = mkdtempSync(join(tmpdir(), 'wembrel-upgrade-'));
process.env.WEMBREL_DATA = data;

// biome-ignore lint/suspicious/noExplicitAny: decisions as they were stored before
type Old = any;

const BAY = { x: 1, y: 2, width: 9, height: 8, turns: 0, scale: 1 };
/** A pairing as it is stored, without its local reaches. */
const { localReaches: _, ...PAIRING } = PairingDecision.parse({ name: 'post', high: [], low: [] });
const LONG = faceText(Uint32Array.from({ length: 2000 }, (_, i) => i * 3));
const sources = { 'a.glb': { hash: 'c'.repeat(64), bytes: 7 } };

/** Decisions as the schema before had them: objects of routes and weights, a list of locked bays, faces as text. */
function oldDecisions(more: object): Old {
  const d = MergeDecisions.parse({}) as Old;
  d.sheets[0].pinned = [{ key: 'Wood plot k1', ...BAY }];
  d.faces.groups = [
    { id: 'g', name: 'Picked', hue: 1, note: '', faces: { 'a.glb': { 0: LONG } }, parts: [], slots: [] },
  ];
  const { shareDuplicates, ...repairs } = d.repairs;
  d.repairs = { ...repairs, shareTwins: true };
  const { settings, ...rays } = d.rays;
  d.rays = { ...rays, recipe: { ...settings, size: 512 } };
  return { ...d, routes: { Wood: '1' }, weights: { Wood: 2 }, proposed: null, ...more };
}

/** The stamp that a final had then. */
function oldFinalStamp(d: Old): string {
  const h = createHash('sha256');
  for (const [path, { hash }] of Object.entries(sources)) h.update(`${path}\0${hash}\n`);
  const plan = Object.fromEntries(PLAN_KEYS.map((k) => [k, d[k]]));
  const { reading, repairs, requiredNames, requiredTextures, compareAt } = d;
  // No change of faces is in force: groups alone change nothing.
  const faces = { groups: [], edits: [], coming: [] };
  h.update(canonicalJson({ ...plan, reading, faces, repairs, requiredNames, requiredTextures, compareAt }));
  return h.digest('hex').slice(0, 24);
}

const job = '00000000-0000-4000-8000-000000000009';
const survey = '00000000-0000-4000-8000-000000000008';
const before = oldDecisions({ routes: {} });
const present = oldDecisions({});

beforeAll(async () => {
  const { openDatabase } = await import('../src/server/store/database.ts');
  const { db, close } = await openDatabase(join(data, 'wembrel.db'), '0003_region');
  const old = db as Old;
  const project = { name: 'Old', created: '', changed: '', version: 5, position: 1, deleted: null, watch: null };
  const state = JSON.stringify({ decisions: present, sources });
  await old
    .insertInto('project')
    .values({ id: 'p', state, ...project })
    .execute();
  const step = (number: number, label: string, forward: object, inverse: object) => ({
    project: 'p',
    number,
    label,
    forward: JSON.stringify([forward]),
    inverse: JSON.stringify([inverse]),
    created: '',
  });
  const at = (slot: string) => `/decisions/routes/${slot}`;
  await old
    .insertInto('step')
    .values([
      step(1, 'Route Wood', { op: 'add', path: at('Wood'), value: '1' }, { op: 'remove', path: at('Wood') }),
      step(2, 'Keep Tin apart', { op: 'add', path: at('Tin'), value: 'apart' }, { op: 'remove', path: at('Tin') }),
    ])
    .execute();
  const row = { project: 'p', sheet: null, state: 'done', share: 1, doing: '', message: null, result: null };
  const times = { created: '', started: null, finished: null, region: null };
  await old
    .insertInto('job')
    .values([
      { id: job, kind: 'final', made_from: oldFinalStamp(before), ...row, ...times },
      { id: survey, kind: 'survey', made_from: 'x', ...row, ...times },
    ])
    .execute();
  await mkdir(join(data, 'jobs', survey), { recursive: true });
  await writeFile(join(data, 'jobs', survey, 'survey.json'), JSON.stringify({ filesStamp: 'files then' }));
  await close();
});

test('a data folder from before is taken over: state, steps both ways, faces, and results that are still fresh', async () => {
  const { requireProject } = await import('../src/server/store/projects.ts');
  const { stepProject } = await import('../src/server/store/steps.ts');
  const { stampOf } = await import('../src/server/store/stamps.ts');
  const { withFaceTexts } = await import('../src/server/store/face-sets.ts');
  const { database } = await import('../src/server/store/database.ts');
  const read = async () => requireProject('p');

  const now = await read();
  expect([now.version, now.position, now.state.sources]).toEqual([5, 1, sources]);
  const { decisions } = now.state;
  expect(decisions.routes).toEqual([{ slot: 'Wood', to: '1' }]);
  expect([decisions.repairs.shareDuplicates, decisions.rays.settings.size]).toEqual([true, 512]);
  expect(decisions.weights).toEqual([{ slot: 'Wood', weight: 2 }]);
  expect(decisions.sheets[0].pinned).toEqual({ 'Wood plot k1': BAY });
  expect(faceSetHash(decisions.faces.groups[0].faces['a.glb'][0])).not.toBeNull();
  const texts = await withFaceTexts(decisions.faces);
  expect(parseFaceText(texts.groups[0].faces['a.glb'][0])).toEqual(parseFaceText(LONG));

  expect((await stepProject('p', 5, 'redo')).label).toBe('Keep Tin apart');
  const both = [
    { slot: 'Wood', to: '1' },
    { slot: 'Tin', to: 'apart' },
  ];
  expect((await read()).state.decisions.routes).toEqual(both);
  await stepProject('p', 6, 'undo');
  expect((await stepProject('p', 7, 'undo')).label).toBe('Route Wood');
  const undone = await read();
  expect(undone.state.decisions.routes).toEqual([]);

  // The final was made from what was decided before the route: after the undo it is fresh.
  const db = await database();
  const jobs = await db.selectFrom('job').select(['id', 'made_from', 'files_stamp']).execute();
  expect(jobs.find((j) => j.id === job)?.made_from).toBe(stampOf(undone.state, 'final'));
  expect(jobs.find((j) => j.id === survey)?.files_stamp).toBe('files then');
});

test('fields that were called otherwise keep their values, in the state, in every step, and in the stamps of results', async () => {
  const { openDatabase } = await import('../src/server/store/database.ts');
  const { stampOf } = await import('../src/server/store/stamps.ts');
  const file = join(data, 'names.db');
  const reach = { at: [1, 2, 3], radius: 0.1, outward: 2, inward: 1, straight: 0 };
  const named = (dabs: object[], shareTwins: boolean): Old => {
    const d = MergeDecisions.parse({}) as Old;
    const { shareDuplicates, ...repairs } = d.repairs;
    const { settings, ...rays } = d.rays;
    const pairing = { ...PAIRING, dabs };
    // Fields that came later are not in what was stored.
    delete d.recipes;
    delete d.standIns;
    return {
      ...d,
      repairs: { ...repairs, shareTwins },
      rays: { ...rays, pairings: [pairing], recipe: { ...settings, size: 256 } },
    };
  };
  const old = await openDatabase(file, '0005_settings');
  const db = old.db as Old;
  const present = { decisions: named([reach], true), sources };
  const row = { created: '', changed: '', version: 3, deleted: null, watch: null };
  await db
    .insertInto('project')
    .values({ id: 'n', name: 'Names', position: 2, state: JSON.stringify(present), ...row })
    .execute();
  const patch = (path: string, value: unknown) => JSON.stringify([{ op: 'replace', path, value }]);
  const shared = '/decisions/repairs/shareTwins';
  const reaches = '/decisions/rays/pairings/0/dabs';
  const steps = [
    { number: 1, label: 'Share', forward: patch(shared, true), inverse: patch(shared, false) },
    { number: 2, label: 'Reach', forward: patch(reaches, [reach]), inverse: patch(reaches, []) },
  ];
  for (const step of steps)
    await db
      .insertInto('step')
      .values({ project: 'n', created: '', ...step })
      .execute();
  const job = { project: 'n', sheet: null, state: 'done', share: 1, doing: '', message: null, files_stamp: null };
  const made = { created: '', started: null, finished: null, region: null };
  const stampThen = stampOf(
    { ...present, decisions: { ...MergeDecisions.parse({}), ...present.decisions } },
    'ray-final',
  );
  await db
    .insertInto('job')
    .values({ id: 'rays', kind: 'ray-final', made_from: stampThen, ...job, ...made })
    .execute();
  await old.close();

  const now = await openDatabase(file);
  const { state } = await now.db.selectFrom('project').select('state').executeTakeFirstOrThrow();
  const { decisions } = JSON.parse(state);
  expect(decisions.repairs).toMatchObject({ shareDuplicates: true });
  expect(decisions.repairs).not.toHaveProperty('shareTwins');
  expect(decisions.rays).toMatchObject({
    settings: { size: 256 },
    pairings: [{ name: 'post', localReaches: [reach] }],
  });
  const upgraded = await now.db.selectFrom('step').select(['inverse', 'label']).orderBy('number').execute();
  expect(upgraded.map(({ inverse }) => JSON.parse(inverse))).toEqual([
    [{ op: 'replace', path: '/decisions/repairs/shareDuplicates', value: false }],
    [{ op: 'remove', path: '/decisions/rays/pairings/0/localReaches/0' }],
  ]);
  const { made_from } = await now.db.selectFrom('job').select('made_from').executeTakeFirstOrThrow();
  expect(made_from).toBe(stampOf(JSON.parse(state), 'ray-final'));
  expect(made_from).not.toBe(stampThen);
  await now.close();
});
