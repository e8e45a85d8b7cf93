import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { routesFrom } from '@wembrel/core/decisions/routes';
import { evenSheets } from '@wembrel/core/decisions/sheets';
import { buildFurniture } from '@wembrel/demo/furniture';
import { beforeAll, describe, expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import { pictureTasks } from '../src/pictures/picture-tasks.ts';
import { searchTasks } from '../src/plans/search-tasks.ts';
import type { JobScope } from '../src/pool/job-scope.ts';
import { type Task, taskGroup } from '../src/pool/task.ts';
import { rayTasks } from '../src/rays/ray-tasks.ts';
import { collectModels } from '../src/read/collect.ts';
import { bakeTasks } from '../src/stages/bake-tasks.ts';
import { type StageContext, stageContext } from '../src/stages/context.ts';
import { gatherPlots, layOut, packRouted } from '../src/stages/lay-out.ts';
import { mend } from '../src/stages/mend.ts';
import { type ReadFiles, read } from '../src/stages/read.ts';
import { reshape, routeModels, routePlanned } from '../src/stages/route.ts';
import { viewTasks } from '../src/stages/view-tasks.ts';
import { put, testScope } from './here.ts';

const decisions = MergeDecisions.parse({
  mergeAll: true,
  sheets: evenSheets(2, 'halt', 256, 4),
  routes: routesFrom({ ShelterGlass: 'apart' }),
  effort: 0,
});

let scope: JobScope;
let context: StageContext;
let files: Awaited<ReturnType<typeof collectModels>>['files'];
beforeAll(async () => {
  scope = testScope();
  context = stageContext(scope);
  files = (await collectModels([await put({ 'stop.glb': kept(buildFurniture, 0.125) })])).files;
});

const fresh = () => read({ files, decisions }, context);

/** Where the slots of a routing go, as text. */
const sheetsOf = (routing: { materials: readonly { name: string; sheet: number }[] }) =>
  routing.materials.map((material) => `${material.name} ${material.sheet}`);

describe('a stage is a function of what the one before it returned', () => {
  test('gathering and packing plots writes nothing into the routing that it is given', async () => {
    const routed = routePlanned(await fresh(), decisions);
    const before = sheetsOf(routed.routing);
    expect(before.some((text) => text.endsWith(' -1'))).toBe(true);
    const gathered = gatherPlots(routed, decisions);
    const packed = packRouted(routed, decisions, context);
    expect(sheetsOf(routed.routing)).toEqual(before);
    // What comes out has a sheet for every material, and the same one both times.
    expect(sheetsOf(gathered.routing).some((text) => text.endsWith(' -1'))).toBe(false);
    expect(sheetsOf(packed.routing)).toEqual(sheetsOf(gathered.routing));
    expect(packed.layout.sheets.map((sheet) => sheet.plots.length)).toEqual(gathered.plots.map((plot) => plot.length));
  });

  test('the same input gives the same layout again', async () => {
    const routed = routePlanned(await fresh(), decisions);
    const once = packRouted(routed, decisions, context).layout;
    expect(packRouted(routed, decisions, context).layout).toEqual(once);
  });

  test('mending nothing hands on what was read; mending gives new models and leaves the list that it was given', async () => {
    const found: ReadFiles = await fresh();
    const same = await mend(found, decisions.repairs, scope);
    expect(same.models).toBe(found.models);
    const list = [...found.models];
    const mended = await mend(found, { ...decisions.repairs, opaque: ['ShelterGlass'] }, scope);
    expect(found.models).toEqual(list);
    expect(mended.models[0].model).not.toBe(list[0].model);
    const glass = (files: ReadFiles) => files.models[0].model.slots.find((slot) => slot.name === 'ShelterGlass')?.look;
    expect([glass(found)?.alphaMode, glass(mended)?.alphaMode]).toEqual(['BLEND', 'OPAQUE']);
    expect(mended.repaired.opaque).toBe(1);
  });

  test('all in a row: every part on a sheet gets its new UVs', async () => {
    const mended = await mend(await fresh(), decisions.repairs, scope);
    const shaped = await reshape(mended, decisions, context);
    const laidOut = await layOut(routeModels(shaped, decisions), decisions, context);
    const merged = new Set(
      laidOut.routing.materials.flatMap((material) => material.members.map((x) => `${x.model}:${x.slot}`)),
    );
    const parts = laidOut.models.flatMap((model, m) =>
      model.parts.flatMap((part) => (merged.has(`${m}:${part.slot}`) ? [`${m}:${part.id}`] : [])),
    );
    expect([...laidOut.byPart.keys()].sort()).toEqual(parts.sort());
  });

  test('nothing that can be read, and a bad file where none may be, are input errors', async () => {
    const none = [{ name: 'gone.glb', path: '/nowhere/gone.glb' }];
    await expect(read({ files: none, decisions }, context)).rejects.toMatchObject({ path: 'gone.glb' });
    await expect(read({ files: [], decisions }, context)).rejects.toThrow(/no model/);
    const some = await read({ files: [...files, ...none], decisions }, context);
    expect(some.report.errors).toHaveLength(1);
    await expect(read({ files: [...files, ...none], decisions, strict: true }, context)).rejects.toThrow(/gone/);
  });
});

describe('tasks of worker threads', () => {
  test('have names of their own', () => {
    const groups = [pictureTasks, searchTasks, rayTasks, bakeTasks, viewTasks];
    const names = groups.flatMap((group) =>
      Object.values(group as Record<string, Task<never, unknown>>).map((task) => task.name),
    );
    expect(new Set(names).size).toBe(names.length);
  });

  test('one whose group the worker does not list is named', async () => {
    const stray = taskGroup('stray', { nothing: async (m: { n: number }) => m.n });
    await expect(scope.run(stray.nothing, { n: 1 })).rejects.toThrow(/no task "stray.nothing"/);
    // In this thread it runs.
    expect(await stray.nothing.run({ n: 3 })).toBe(3);
  });
});
