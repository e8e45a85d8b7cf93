import { mkdtempSync } from 'node:fs';
import { mkdir, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { beforeAll, describe, expect, test } from 'vitest';
import { orphanRoutes } from '../src/project/orphan-routes.ts';

const data = mkdtempSync(join(tmpdir(), 'wembrel-jobs-'));
process.env.WEMBREL_DATA = data;

let projects: typeof import('../src/server/store/projects.ts');
let steps: typeof import('../src/server/store/steps.ts');
let stamps: typeof import('../src/server/store/stamps.ts');
let surveys: typeof import('../src/server/jobs/surveys.ts');
let jobs: typeof import('../src/server/jobs/jobs.ts');
let database: typeof import('../src/server/store/database.ts').database;
beforeAll(async () => {
  projects = await import('../src/server/store/projects.ts');
  steps = await import('../src/server/store/steps.ts');
  stamps = await import('../src/server/store/stamps.ts');
  surveys = await import('../src/server/jobs/surveys.ts');
  jobs = await import('../src/server/jobs/jobs.ts');
  ({ database } = await import('../src/server/store/database.ts'));
});

let count = 0;
async function addJob(project: string, more: { made_from: string; files_stamp?: string; kind?: 'survey' | 'final' }) {
  const id = `00000000-0000-4000-8000-${String(++count).padStart(12, '0')}`;
  const db = await database();
  await db
    .insertInto('job')
    .values({
      id,
      project,
      kind: 'survey',
      sheet: null,
      state: 'done',
      share: 1,
      doing: 'done',
      message: null,
      files_stamp: null,
      created: '',
      started: null,
      finished: null,
      ...more,
    })
    .execute();
  return id;
}

async function writeSurvey(job: string, slots: string[]): Promise<void> {
  const survey = {
    models: [{ path: 'a.glb' }],
    slots: slots.map((name) => ({ model: 0, name, parts: [] })),
    pictures: [],
    errors: [],
  };
  await mkdir(join(data, 'jobs', job), { recursive: true });
  await writeFile(join(data, 'jobs', job, 'survey.json'), JSON.stringify(survey));
}

describe('which jobs pages get', () => {
  const row = fc.record({
    id: fc.uuid(),
    kind: fc.constantFrom('survey', 'proof', 'final'),
    sheet: fc.constantFrom(null, '1'),
    state: fc.constantFrom('done', 'failed', 'running', 'queued'),
    made_from: fc.constantFrom('old', 'older', 'now'),
  });
  test('all under way, the newest result of each kind and sheet, and every result of what is decided now', async () => {
    const { jobsToList } = await import('../src/server/jobs/list-jobs.ts');
    fc.assert(
      fc.property(fc.array(row, { maxLength: 60 }), (rows) => {
        const listed = jobsToList(rows, ['now']);
        expect(listed).toEqual(rows.filter((row) => listed.includes(row)));
        for (const row of rows) {
          if (row.state === 'running' || row.state === 'queued') expect(listed).toContain(row);
          if (row.state === 'done' && row.made_from === 'now') expect(listed).toContain(row);
          const first = rows.find((x) => x.state === 'done' && x.kind === row.kind && x.sheet === row.sheet);
          if (first) expect(listed).toContain(first);
        }
        // Old failures do not pile up.
        expect(listed.filter((r) => r.state === 'failed').length).toBeLessThanOrEqual(12);
      }),
    );
  });
});

describe('the survey of a project', () => {
  const add = (id: string, hash: string) =>
    steps.changeProject(id, null, 'add', (projectState) => ({
      ...projectState,
      sources: { 'a.glb': { hash: hash.repeat(64), bytes: 1 } },
    }));

  test('is found however many jobs came after it; an older one of the same files stands in while faces are changed', async () => {
    const id = await projects.createProject('found');
    await add(id, 'a');
    const first = await projects.requireProject(id);
    const own = await addJob(id, {
      made_from: stamps.stampOf(first.state, 'survey'),
      files_stamp: stamps.filesStamp(first.state),
    });
    for (let i = 0; i < 60; i++) await addJob(id, { kind: 'final', made_from: `${i}` });
    expect(await surveys.surveyFor(first)).toMatchObject({ id: own });
    await steps.changeProject(id, null, 'faces', (projectState) => {
      const group = { id: 'g', name: 'Roof', hue: 1, note: '', faces: {}, parts: [], slots: ['Tin'] };
      const edit = { id: 'e', kind: 'slot' as const, groups: ['g'], slot: 'Zinc', off: false };
      return {
        ...projectState,
        decisions: { ...projectState.decisions, faces: { groups: [group], edits: [edit], coming: [] } },
      };
    });
    expect(await surveys.surveyFor(await projects.requireProject(id))).toMatchObject({ id: own });
    await add(id, 'b');
    expect(await surveys.surveyFor(await projects.requireProject(id))).toBeNull();
  });

  test('stays in sight while the same files are read in another way, and not while others are', async () => {
    const id = await projects.createProject('read otherwise');
    await add(id, 'a');
    const first = await projects.requireProject(id);
    const own = await addJob(id, { made_from: stamps.stampOf(first.state, 'survey'), files_stamp: 'of then' });
    await mkdir(join(data, 'jobs', own), { recursive: true });
    await writeFile(join(data, 'jobs', own, 'sources.stamp'), stamps.stampOver(first.state.sources));
    await steps.changeProject(id, null, 'reading', (projectState) => {
      const { decisions } = projectState;
      const naming = { ...decisions.reading.naming, patterns: ['{slot}_{map}'] };
      return { ...projectState, decisions: { ...decisions, reading: { ...decisions.reading, naming } } };
    });
    const otherwise = await projects.requireProject(id);
    expect(stamps.stampOf(otherwise.state, 'survey')).not.toBe(stamps.stampOf(first.state, 'survey'));
    expect(await surveys.surveyFor(otherwise)).toMatchObject({ id: own });
    await add(id, 'b');
    expect(await surveys.surveyFor(await projects.requireProject(id))).toBeNull();
  });

  test('says what came and went since the last reading of other files, and which routes lead nowhere now', async () => {
    const id = await projects.createProject('changes');
    const before = await addJob(id, { made_from: '1', files_stamp: 'then' });
    const between = await addJob(id, { made_from: '2', files_stamp: 'now' });
    const now = await addJob(id, { made_from: '3', files_stamp: 'now' });
    await writeSurvey(before, ['Wood', 'Tin']);
    await writeSurvey(between, ['Wood']);
    await writeSurvey(now, ['Wood', 'Zinc']);
    const changes = await surveys.changesSince({ id: now, project: id });
    expect(changes).toEqual({
      appeared: ['a.glb: slot Zinc'],
      vanished: ['a.glb: slot Tin'],
      goneSlots: ['Tin'],
    });
    const routes = [
      { slot: 'Tin', to: 'apart' },
      { slot: 'Wood', to: '1' },
    ];
    expect(orphanRoutes(changes, routes)).toEqual(['Tin']);
    expect(await surveys.changesSince({ id: before, project: id })).toBeNull();
    expect(orphanRoutes(null, routes)).toEqual([]);
  });
});

describe('jobs that cannot be', () => {
  test('none without a model, no pause of what does not run, no folder of what is not there', async () => {
    const id = await projects.createProject('nothing');
    await expect(jobs.startJob(id, 'survey')).rejects.toMatchObject({ status: 400 });
    await expect(jobs.ensureSurvey(id)).resolves.toBeUndefined();
    expect(() => jobs.pauseJob('none', true)).toThrow(/not running/);
    await expect(jobs.finishedJob(undefined)).rejects.toMatchObject({ status: 404 });
    await expect(jobs.cancelJob('none')).rejects.toMatchObject({ status: 404 });
    expect([jobs.isPaused('none'), jobs.secondsLeft('none')]).toEqual([false, null]);
  });
});
