import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { routesFrom } from '@wembrel/core/decisions/routes';
import type { FindingAction } from '@wembrel/core/findings/finding';
import { surveyFindings } from '@wembrel/core/findings/findings';
import { describe, expect, test } from 'vitest';
import { buildModel, quad, type SlotSpec } from '../../../packages/core/test/build.ts';
import { factsOf } from '../../../packages/core/test/facts.ts';
import type { ProjectView, SurveyView } from '../src/contract/project.ts';
import { FINDING_TITLES } from '../src/project/finding-titles.ts';
import { orphanRoutes } from '../src/project/orphan-routes.ts';
import { isTaken, taken, takenBack } from '../src/project/use-findings.ts';
import { sourceChanges } from '../src/server/store/source-changes.ts';
import { accountOf, COSTS, type CostName, costFooter } from '../src/views/survey/tables/costs.ts';
import { sourceRows } from '../src/views/survey/tables/source-rows.ts';
import { TINTS, type TintName, tintScale } from '../src/views/survey/tints.ts';

const SLOTS: SlotSpec[] = [
  { name: 'A', baseColor: 'a' },
  { name: 'B', baseColor: 'b', alphaMode: 'BLEND' },
];

function surveyOf(paths: string[], slots = SLOTS): SurveyView {
  const models = paths.map((path) =>
    buildModel(
      slots,
      slots.map((slot, i) => ({ ...quad(i * 2, 0, 1, 1 + i, 0, 0, 1, 1), slot: slot.name })),
      path,
    ),
  );
  const facts = factsOf(models);
  return {
    ...facts,
    findings: [],
    filesStamp: '',
    files: facts.models.map((model) => ({
      path: model.path,
      ok: true,
      drawCalls: facts.slots.filter((slot) => facts.models[slot.model] === model).length,
      slots: 2,
      triangles: model.triangles,
      gpuVertices: 8,
      textures: 2,
    })),
  };
}

const project = (survey: SurveyView, more: Partial<ProjectView> = {}): ProjectView =>
  ({
    id: 'p',
    name: 'p',
    version: 1,
    decisions: MergeDecisions.parse({}),
    sources: survey.models.map((model) => ({ path: model.path, bytes: 10, hash: 'x' })),
    survey,
    ...more,
  }) as ProjectView;

describe('accounts', () => {
  const survey = surveyOf(['one.glb', 'two.glb']);
  const projectView = project(survey);
  const sumOf = (name: CostName, column: number) =>
    accountOf(name, projectView, survey).rows.reduce((sum, row) => sum + (row.figures[column] ?? 0), 0);

  test('every figure of the totals is the sum of its rows', () => {
    expect(sumOf('drawCalls', 2)).toBe(survey.totals.drawCalls);
    expect(sumOf('triangles', 3)).toBe(survey.totals.triangles);
    expect(sumOf('gpuVertices', 6)).toBe(survey.totals.gpuVertices);
    expect(sumOf('bytes', 3)).toBe(survey.totals.textureBytes.bc7);
    // Two slots of 1 × 2 m that blend.
    expect(sumOf('blended', 1)).toBeCloseTo(4, 9);
    expect(sumOf('triangles', 2)).toBeCloseTo(1, 9);
  });

  test('columns that do not add up have no sum below them', () => {
    for (const name of Object.keys(COSTS) as CostName[]) {
      const account = accountOf(name, projectView, survey);
      const footer = costFooter(account);
      account.heads.forEach((head, i) => {
        expect(footer[`figure ${i}`] !== undefined, `${name}: ${head.title}`).toBe(head.adds);
      });
      for (const row of account.rows) expect(row.figures).toHaveLength(account.heads.length);
    }
  });

  test('splits of vertices add up row by row', () => {
    for (const row of accountOf('gpuVertices', projectView, survey).rows)
      expect(row.figures.slice(0, 6).reduce((sum: number, v) => sum + (v ?? 0), 0)).toBe(row.figures[6]);
  });
});

describe('actions of findings', () => {
  const start = MergeDecisions.parse({ routes: { X: 'apart' } });
  const ACTIONS: FindingAction[] = [
    { do: 'repair', label: '', repairs: { shareDuplicates: true } },
    { do: 'repair', label: '', repairs: { storeAt: { abcdef01: 512 } } },
    { do: 'repair', label: '', repairs: { shareNear: { abcdef01: 'abcdef02' } } },
    { do: 'repair', label: '', repairs: { flatToFactor: ['abcdef01'] } },
    { do: 'repair', label: '', repairs: { harden: ['A'] } },
    { do: 'repair', label: '', repairs: { opaque: ['B'] } },
    { do: 'join', label: '' },
  ];

  test.each(ACTIONS)('$do $repairs is taken, known as taken, and taken back without a trace', (findingAction) => {
    expect(isTaken(findingAction, start)).toBe(false);
    const done = taken(start, [findingAction]);
    expect(MergeDecisions.parse(done)).toEqual(done);
    expect(isTaken(findingAction, done)).toBe(true);
    expect(takenBack(done, [findingAction])).toEqual(start);
  });

  test('several at once keep what was there; one that only leads somewhere changes nothing', () => {
    const done = taken(start, ACTIONS);
    expect(ACTIONS.every((findingAction) => isTaken(findingAction, done))).toBe(true);
    expect(done.keepAll).toBe(false);
    expect(taken(start, [{ do: 'go', label: '', to: 'plan' }])).toEqual(start);
  });

  test('sharing copies on a plan without routes merges nothing, on another one it leaves the plan alone', () => {
    const [share] = ACTIONS;
    expect(taken(MergeDecisions.parse({}), [share]).keepAll).toBe(true);
    expect(taken(start, [share]).keepAll).toBe(false);
  });

  test('routes and ways of reading', () => {
    const together = taken(start, [{ do: 'route-together', label: '', slots: ['P', 'Q'] }]);
    expect(together.routes).toEqual(routesFrom({ X: 'apart', P: '1', Q: '1' }));
    const apart = taken(start, [{ do: 'keep-apart', label: '', slots: ['P'] }]);
    expect(apart.routes).toEqual(routesFrom({ X: 'apart', P: 'apart' }));
    const read: FindingAction = { do: 'read-as', label: '', path: 'a.glb', options: { normalY: 'down' } };
    const down = taken(start, [read]);
    expect(MergeDecisions.parse(down).reading.sources['a.glb']).toMatchObject({ normalY: 'down', colour: 'srgb' });
    expect(isTaken(read, down)).toBe(true);
  });
});

describe('tints', () => {
  const survey = surveyOf(['one.glb', 'two.glb']);
  const findings = surveyFindings(survey, MergeDecisions.parse({}));

  test('every one has a colour for every part, and grey for a face of no slot', () => {
    for (const name of Object.keys(TINTS) as TintName[]) {
      const scale = tintScale(name, survey, findings, 512);
      if (name === 'own' || name === 'checker') {
        expect(scale).toBeNull();
        continue;
      }
      survey.slots.forEach((slot, i) => {
        for (const part of slot.parts) expect(scale?.colour(i, part.part), name).toMatch(/^oklch\(/);
      });
      expect(scale?.colour(-1, 99)).toMatch(/^oklch\(/);
      survey.models.forEach((_, m) => {
        expect(scale?.model(m) ?? 'oklch(').toMatch(/^oklch\(/);
      });
    }
  });

  test('density: at the target neutral, below and above to two ends', () => {
    // 256 px over 1 m and over 2 m.
    const at = tintScale('density', survey, [], 256);
    expect(at?.colour(0, 0)).toMatch(/^oklch\(0\.68 0 /);
    const low = tintScale('density', survey, [], 4096)?.colour(0, 0);
    const high = tintScale('density', survey, [], 16)?.colour(0, 0);
    expect(low).toMatch(/310\)$/);
    expect(high).toMatch(/ 85\)$/);
  });
});

describe('what came and went', () => {
  test('slots, parts and textures of models read both times; models that are new say it themselves', () => {
    const before = surveyOf(['one.glb', 'two.glb']);
    const now = surveyOf(['one.glb', 'three.glb'], [SLOTS[0], { name: 'C', baseColor: 'c' }]);
    const changes = sourceChanges(before, now);
    expect(changes?.appeared).toEqual(['one.glb: slot C', 'one.glb: texture c']);
    expect(changes?.vanished).toEqual(['one.glb: slot B', 'one.glb: texture b']);
    expect(changes?.goneSlots).toEqual(['B']);
    expect(orphanRoutes(changes, routesFrom({ B: '1', A: '1', never: '1' }))).toEqual(['B']);
    expect(sourceChanges(before, before)).toBeNull();
  });

  test('a model that cannot be read any more is listed', () => {
    const before = surveyOf(['one.glb', 'two.glb']);
    const now = { ...surveyOf(['one.glb']), errors: [{ path: 'two.glb', message: 'is cut short' }] };
    expect(sourceChanges(before, now)?.vanished).toEqual(['two.glb: cannot be read any more']);
  });
});

test('every file of the project says what became of it', () => {
  const survey = surveyOf(['props/one.glb']);
  survey.models[0].sideFiles = ['props/wood.png'];
  survey.loose = [
    { path: 'props/A_normal.png', to: ['one: A'], maps: ['normal'], reason: null },
    { path: 'props/notes.png', to: [], maps: [], reason: 'its name ends like no map' },
  ];
  survey.files.push({
    path: 'bad.glb',
    ok: false,
    error: 'is cut short',
    drawCalls: 0,
    slots: 0,
    triangles: 0,
    gpuVertices: 0,
    textures: 0,
  });
  const paths = [
    'props/one.glb',
    'props/wood.png',
    'props/A_normal.png',
    'props/notes.png',
    'bad.glb',
    'props/old.mtl',
  ];
  const rows = sourceRows(project(survey, { sources: paths.map((path) => ({ path, bytes: 1, hash: '' })) }), survey);
  expect(rows.map((row) => [row.fate, row.good])).toEqual([
    ['read as a model', true],
    ['read with one.glb', true],
    ['normal of one: A', true],
    ['not used: its name ends like no map', false],
    ['is cut short', false],
    ['not used: no model names it', false],
  ]);
});

test('every code has a title', async () => {
  const { FINDING_CODES } = await import('@wembrel/core/findings/findings');
  expect(Object.keys(FINDING_TITLES).sort()).toEqual([...FINDING_CODES].sort());
});
