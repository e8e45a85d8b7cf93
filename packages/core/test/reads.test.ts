import { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { describe, expect, test } from 'vitest';
import { MergeDecisions, planOf } from '../src/decisions/decisions.ts';
import { LightDecisions } from '../src/decisions/light-decisions.ts';
import { PlannedSurface } from '../src/decisions/planned-surface.ts';
import { READS, readText, type Stage } from '../src/decisions/reads.ts';
import { routesFrom } from '../src/decisions/routes.ts';
import { SheetDecision } from '../src/decisions/sheets.ts';
import { StandInSpec } from '../src/decisions/stand-in.ts';

const start = MergeDecisions.parse({});
const [sheet] = start.sheets;
const sheets = (more: object) => [SheetDecision.parse({ ...sheet, ...more })];
const faces = (edit: object) =>
  MergeDecisions.parse({
    faces: {
      groups: [{ id: 'g', name: 'Roof', hue: 1, slots: ['Tin'] }],
      edits: [{ id: 'e', kind: 'slot', groups: ['g'], slot: 'Zinc', ...edit }],
    },
  }).faces;

/** Jobs whose results are kept under a stamp. */
const JOBS = ['survey', 'layout', 'merge', 'rays', 'light', 'standIn'] as const satisfies Stage[];
type Job = (typeof JOBS)[number];
const ALL: Job[] = [...JOBS];

/** A change of every field, and the results that go out of date with it. */
const CHANGES: { [K in keyof MergeDecisions]: [value: MergeDecisions[K], outdated: Job[]] } = {
  sheets: [sheets({ size: 1024 }), ['layout', 'merge']],
  routes: [routesFrom({ Wood: 'apart' }), ['layout', 'merge']],
  rules: [[{ id: '1', when: { kind: 'flat' }, to: 'apart' }], ['layout', 'merge']],
  only: [['bench*'], ['survey', 'layout', 'merge']],
  weights: [[{ slot: 'Wood', weight: 2 }], ['layout', 'merge']],
  bakeRepeats: [['Wood'], ['layout', 'merge']],
  cutRepeats: [['Wood'], ['layout', 'merge']],
  keepTurn: [['Wood'], ['layout', 'merge']],
  vertexColours: [['Wood'], ['layout', 'merge']],
  maxRepeats: [9, ['layout', 'merge']],
  keepAll: [true, ['layout', 'merge']],
  padding: [3, ['merge']],
  samples: [9, ['merge']],
  rotate: ['free', ['merge']],
  scale: ['even', ['merge']],
  keepParts: [['Door'], ['merge']],
  join: [true, ['layout', 'merge']],
  mergeAll: [true, ['layout', 'merge']],
  leftOut: [[{ slot: 'Wood', why: 'starved' }], ['layout', 'merge']],
  embed: [true, ['merge']],
  effort: [9, ['merge']],
  snap: [true, ['merge']],
  seed: [9, ['merge']],
  compareAt: [512, ['merge']],
  requiredNames: [['Wood'], ['merge']],
  requiredTextures: [['wood'], ['merge']],
  profiles: [['normal-y-down'], ['merge']],
  sameNames: [true, ['merge']],
  modelCopies: [['obj'], ['merge']],
  collision: [{ as: 'hull', faces: 32, pieces: 8, by: 'model' }, ['merge']],
  recipes: [[RecipeUse.parse({ recipe: { recipe: 1, name: 'Dust' } })], ['merge']],
  repairs: [{ ...start.repairs, shareDuplicates: true }, ['layout', 'merge']],
  reading: [{ ...start.reading, naming: { ...start.reading.naming, patterns: ['{slot}_{map}'] } }, ALL],
  faces: [faces({}), ALL],
  rays: [{ ...start.rays, settings: { ...start.rays.settings, size: 512 } }, ['rays']],
  light: [LightDecisions.parse({ ao: { distance: 9 } }), ['light']],
  standIns: [[{ model: 'kiosk.glb', spec: StandInSpec.parse({}) }], []],
  viewDistance: [9, []],
  removedResults: [['a'], []],
  planned: [[PlannedSurface.parse({ id: 'p', name: 'Roof', area: 9 })], []],
  alternatives: [[{ id: 'a', name: 'other', plan: planOf(start) }], []],
  proposed: [{ routes: [], sheets: [], cuts: [] }, []],
  budget: [{ ...start.budget, drawCalls: 9 }, []],
};

const outdatedBy = (before: MergeDecisions, after: MergeDecisions): Job[] =>
  JOBS.filter((s) => readText(s, before) !== readText(s, after));

describe('what a stage reads', () => {
  test.each(Object.keys(CHANGES) as (keyof MergeDecisions)[])('a change of %s outdates just what reads it', (key) => {
    const [value, outdated] = CHANGES[key];
    expect(outdatedBy(start, { ...start, [key]: value })).toEqual(outdated);
  });

  test('a picture of a planned surface counts once a slot has taken its place', () => {
    const surface = (more: object) => ({
      ...start,
      planned: [PlannedSurface.parse({ id: 'p', name: 'Roof', area: 9, ...more })],
    });
    const picture = 'a'.repeat(64);
    expect(outdatedBy(start, surface({ picture }))).toEqual([]);
    expect(outdatedBy(surface({ linked: 'Roof' }), surface({ linked: 'Roof', picture }))).toEqual(ALL);
  });

  test('every field of the decisions is in the list', () => {
    expect(Object.keys(CHANGES).sort()).toEqual(Object.keys(start).sort());
    const fields = new Set(Object.keys(start));
    for (const stage of Object.keys(READS) as Stage[]) for (const f of READS[stage]) expect(fields.has(f)).toBe(true);
  });

  test('what changes no result outdates nothing: order of routes, names of groups, edits that are off', () => {
    const two = { ...start, routes: routesFrom({ A: 'apart', B: '1' }) };
    expect(outdatedBy(two, { ...two, routes: [...two.routes].reverse() })).toEqual([]);
    expect(outdatedBy(start, { ...start, faces: faces({ off: true }) })).toEqual([]);
    const on = { ...start, faces: faces({}) };
    const renamed = {
      ...on.faces,
      groups: on.faces.groups.map((group) => ({ ...group, name: 'Top', hue: 9, note: 'x' })),
    };
    expect(outdatedBy(on, { ...on, faces: renamed })).toEqual([]);
  });

  test('a rule for objects outdates the reading as well, since it may split slots; where it leads to does not', () => {
    const rule = (to: string) => [{ id: '1', when: { kind: 'object' as const, pattern: 'bench*' }, to }];
    expect(outdatedBy(start, { ...start, rules: rule('apart') })).toEqual(['survey', 'layout', 'merge']);
    expect(outdatedBy({ ...start, rules: rule('apart') }, { ...start, rules: rule('1') })).toEqual(['layout', 'merge']);
  });

  test('a margin, a name and a place outdate a bake, not the islands that are gathered', () => {
    for (const more of [{ margin: 3 }, { name: 'other' }, { reserves: [{ id: 'r', x: 0, y: 0, width: 9, height: 9 }] }])
      expect(outdatedBy(start, { ...start, sheets: sheets(more) })).toEqual(['merge']);
  });
});
