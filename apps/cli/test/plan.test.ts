import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { PlanFile } from '@wembrel/core/decisions/plan-file';
import { sign } from '@wembrel/demo/broken';
import { buildPlanters, buildWalls } from '@wembrel/demo/pieces';
import { expect, test } from 'vitest';
import { kept } from '../../../packages/demo/test/kept.ts';
import { put, temporary, wembrel } from './here.ts';

const pile = () =>
  put({
    'planters.glb': kept(buildPlanters),
    'walls.glb': kept(buildWalls),
    'exit.glb': sign({ names: ['ExitEnamel', 'ExitFrame'] }).glb(),
  });

test('a proposal is written, predicted and merged by its file; the figures are the same all along', async () => {
  const at = await pile();
  const out = temporary();
  const file = join(out, 'plan.json');
  const proposed = await wembrel([
    'plan',
    'propose',
    at,
    '--budget',
    'headset',
    '--weight',
    'ExitEnamel=2',
    '--out',
    file,
    '--json',
  ]);
  expect([proposed.code, proposed.err]).toEqual([0, '']);
  const p = JSON.parse(proposed.out);
  expect(PlanFile.parse(JSON.parse(await readFile(file, 'utf8')))).toEqual(p.plan);
  expect(p.plan.weights).toEqual([{ slot: 'ExitEnamel', weight: 2 }]);
  expect(p.exhaustive).toBe(true);
  expect(p.routes.map((route: { name: string }) => route.name)).toContain('ExitFrame');
  for (const route of p.routes) expect(route.why).not.toBe('');
  expect(p.after.drawCalls).toBeLessThan(p.before.drawCalls);

  const predicted = await wembrel(['plan', 'predict', at, '--plan', file, '--pack', '--json']);
  const { prediction, packed } = JSON.parse(predicted.out);
  expect(packed).toBe(true);
  expect(prediction.drawCalls).toBe(p.after.drawCalls);
  expect(prediction.textureBytes).toEqual(p.after.textureBytes);
  expect(prediction.flows).toHaveLength(p.after.flows.length);

  const merged = await wembrel(['merge', at, '--plan', file, '--out', join(out, 'm'), '--proof', '--json']);
  expect([merged.code, merged.err]).toEqual([0, '']);
  const report = JSON.parse(merged.out);
  expect(report.after.drawCalls).toBe(prediction.drawCalls);
  expect(report.keptApart.map((k: { slot: string }) => k.slot)).toEqual(
    prediction.flows
      .filter((flow: { sheet: string | null }) => flow.sheet === null)
      .map((flow: { slot: string }) => flow.slot),
  );
}, 120_000);

test('a plan of patterns fits other models; for people it says why each slot lies where it does', async () => {
  const file = join(temporary(), 'plan.json');
  const plan = {
    format: 'wembrel-plan',
    version: 1,
    sheets: [
      { id: 'a', name: 'walls', size: 256, margin: 2 },
      { id: 'b', name: 'signs', size: 128, margin: 2 },
    ],
    rules: [{ id: '1', when: { kind: 'name', pattern: 'Exit*' }, to: 'b' }],
    mergeAll: true,
    planned: [{ id: '1', name: 'Roof felt', area: 12, to: 'a' }],
  };
  await writeFile(file, JSON.stringify(plan));
  const { code, out } = await wembrel(['plan', 'predict', await pile(), '--plan', file]);
  expect(code).toBe(0);
  // Two by the rule, four of one colour spread there.
  expect(out).toMatch(/signs: atlas, 128 × 128 px, 6 slots/);
  expect(out).toMatch(/kept apart, 1 slot: TiledBrick .*repeats 6\.0 times/);
  const json = JSON.parse((await wembrel(['plan', 'predict', await pile(), '--plan', file, '--json'])).out);
  const felt = json.prediction.flows.find((flow: { planned: boolean }) => flow.planned);
  expect(felt).toMatchObject({ slot: 'Roof felt', sheet: 'walls' });
  expect(felt.density.median).toBeLessThanOrEqual(512 / Math.sqrt(12) + 1e-6);
});

test('a plan file with a fault is refused with the place of it; sizes are not said twice', async () => {
  const at = await put({ 'exit.glb': sign().glb() });
  const file = join(temporary(), 'plan.json');
  const refused = async (plan: object, says: RegExp, ...more: string[]) => {
    await writeFile(file, JSON.stringify(plan));
    const { code, err } = await wembrel(['merge', at, '--out', join(at, 'o'), '--plan', file, ...more]);
    expect(code).toBe(2);
    expect(err).toMatch(says);
  };
  const good = { format: 'wembrel-plan', version: 1 };
  await refused({ ...good, version: 2 }, /version/);
  await refused({ ...good, routes: { Wood: 'z' } }, /routes\.Wood: "Wood" is routed to a sheet that does not exist/);
  await refused({ ...good, sheets: [{ id: '1', name: 'a', size: 300, margin: 2 }] }, /sheets\.0\.size: a power of two/);
  await refused(good, /--size is said by the plan file/, '--size', '512');
});

test.each(['plan', 'faces', 'profile'])('the published schema of %s is that of the code', async (verb) => {
  const { code, out } = await wembrel([verb, 'schema']);
  expect(code).toBe(0);
  const published = await readFile(new URL(`../../../docs/${verb}.schema.json`, import.meta.url), 'utf8');
  expect(JSON.parse(out)).toEqual(JSON.parse(published));
});

test('the schema of a plan names the kinds of sheets', async () => {
  const { out } = await wembrel(['plan', 'schema']);
  expect(JSON.parse(out).properties.sheets.items.properties.kind.enum).toEqual(['atlas', 'trim', 'tile', 'palette']);
});

test('a plan is tightened: how each sheet is found again stands in its file, and predicting with it finds just that', async () => {
  const at = await put({ 'planters.glb': kept(buildPlanters), 'walls.glb': kept(buildWalls) });
  const out = temporary();
  const file = join(out, 'plan.json');
  const sheets = [{ id: '1', name: 'halt', size: 256, margin: 4 }];
  await writeFile(
    file,
    JSON.stringify({ format: 'wembrel-plan', version: 1, sheets, rotate: 'free', effort: 0, mergeAll: true }),
  );
  const tightened = join(out, 'tight.json');
  const args = ['plan', 'tighten', at, '--plan', file];
  const done = await wembrel([...args, '--seconds', '3', '--threads', '2', '--out', tightened, '--json']);
  expect([done.code, done.err]).toEqual([0, '']);
  const [found] = JSON.parse(done.out).sheets;
  expect(found).toMatchObject({ name: 'halt' });
  const plan = PlanFile.parse(JSON.parse(await readFile(tightened, 'utf8')));
  expect(plan.sheets[0].search).toEqual(found.search);
  const predicted = await wembrel(['plan', 'predict', at, '--plan', tightened, '--pack', '--json']);
  expect(JSON.parse(predicted.out).prediction.sheets[0].coverage).toBeCloseTo(found.after, 9);
  const people = await wembrel([...args, '--seconds', '1']);
  expect(people.out).toMatch(/halt: \d+\.\d % covered/);
  const wrong = await wembrel([...args, '--seconds', '0']);
  expect([wrong.code, wrong.out]).toEqual([2, '']);
  expect(wrong.err).toContain('seconds');
}, 120_000);
