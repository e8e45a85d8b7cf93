import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { sign } from '@wembrel/demo/broken';
import { buildFurniture } from '@wembrel/demo/furniture';
import { buildWalls } from '@wembrel/demo/pieces';
import { buildRails } from '@wembrel/demo/rails';
import { kept } from '../../packages/demo/test/kept.ts';
import { expect, goTo, newProject, projectOf, reloadSaved, routesOf, test } from '../app.ts';
import { type Server, temporary } from '../server.ts';

test.setTimeout(180_000);

/** A project with two signs, two slots each. */
async function twoSigns(page: Page, server: Server, name: string): Promise<string> {
  const id = await newProject(page, server, name);
  const at = temporary();
  const files = [
    { file: join(at, 'exit-sign.glb'), names: ['ExitEnamel', 'ExitFrame'] },
    { file: join(at, 'wait-sign.glb'), names: ['WaitEnamel', 'WaitFrame'] },
  ];
  for (const file of files) await writeFile(file.file, sign({ names: file.names }).glb());
  await page.getByTestId('files').setInputFiles(files.map((file) => file.file));
  await expect(page.getByTestId('total-slots')).toHaveText('4', { timeout: 60_000 });
  await goTo(page, 'Plan');
  return id;
}

const decisionsOf = async (page: Page, server: Server, id: string) => (await projectOf(page, server, id)).decisions;

const row = (page: Page, name: string) => page.getByRole('option', { name: new RegExp(name) });

test('slots are routed by drag, many at once, by key and by rule; each is undone, done again, and there after a reload', async ({
  page,
  server,
}) => {
  const id = await twoSigns(page, server, 'Routes');
  const decisions = () => decisionsOf(page, server, id);
  await page.getByRole('button', { name: 'Add a sheet' }).click();
  const second = page.getByRole('region', { name: 'Sheet sheet_2' });
  await expect(second).toBeVisible();

  await test.step('two by drag', async () => {
    await row(page, 'ExitEnamel').click();
    await row(page, 'WaitFrame').click({ modifiers: ['Control'] });
    // The board moves when the prediction of two sheets arrives: what was measured before is dragged again.
    await expect(async () => {
      const from = await row(page, 'WaitFrame').boundingBox();
      const to = await second.boundingBox();
      if (!from || !to) throw new Error('nothing to drag');
      await page.mouse.move(from.x + 80, from.y + 10);
      await page.mouse.down();
      await page.mouse.move(to.x + 60, to.y + 30, { steps: 8 });
      await page.mouse.up();
      const routes = expect.poll(async () => routesOf(await decisions()), { timeout: 8000 });
      await routes.toEqual({ ExitEnamel: '2', WaitFrame: '2' });
    }).toPass({ timeout: 60_000 });
  });
  await test.step('one by the number of a sheet', async () => {
    await row(page, 'WaitEnamel').click();
    await page.keyboard.press('1');
    await expect.poll(async () => routesOf(await decisions()).WaitEnamel).toBe('1');
  });
  await test.step('by rule, which routes by hand go before', async () => {
    await page.getByRole('button', { name: 'Add a rule' }).click();
    await page.getByLabel('Pattern; * stands for any letters').fill('Exit*');
    await expect(page.getByText('2 of 4 slots fit')).toBeVisible();
    await page.getByLabel('goes to').selectOption({ label: 'kept apart' });
    await page.getByRole('button', { name: 'Add the rule' }).click();
    const apart = page.getByRole('region', { name: 'Kept apart' });
    await expect(apart).toContainText('ExitFrame kept apart by a rule');
    await expect(apart).not.toContainText('ExitEnamel');
  });
  const last = await decisions();
  await reloadSaved(page);
  await expect(page.getByText('Every slot called Exit* is kept apart')).toBeVisible();
  for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(async () => (await decisions()).routes).toEqual([]);
  for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Redo', exact: true }).click();
  await expect.poll(decisions).toEqual(last);
});

test('sheets are given kinds, heights, maps of their own sizes and free room; slots are searched and grouped', async ({
  page,
  server,
}) => {
  const id = await twoSigns(page, server, 'Sheets');
  const sheet = async () => (await decisionsOf(page, server, id)).sheets[0];
  await page.getByRole('button', { name: 'Sheet options' }).click();
  await page.getByLabel('Height of sheet').selectOption('512');
  await expect.poll(async () => (await sheet()).height).toBe(512);
  await page.getByLabel(/^AO, roughness, metallic of/).selectOption('2');
  await expect.poll(async () => (await sheet()).maps.orm).toBe(2);
  await page.getByRole('button', { name: 'Keep room free' }).click();
  await expect
    .poll(async () => (await sheet()).reserves)
    .toMatchObject([{ x: 1024, y: 256, width: 1024, height: 256 }]);
  // A smaller sheet takes its free room with it.
  await page.getByLabel('Width of sheet').selectOption('512');
  await expect.poll(async () => (await sheet()).reserves).toMatchObject([{ x: 0, y: 256, width: 512, height: 256 }]);
  await page.getByLabel('What free room 1 is for').fill('polish');
  await page.getByLabel('What free room 1 is for').press('Enter');
  await expect.poll(async () => (await sheet()).reserves[0].note).toBe('polish');
  await page.getByLabel('Kind of sheet').selectOption('palette');
  await expect(page.getByRole('region', { name: 'Kept apart' })).toContainText('only atlases take slots by themselves');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();

  await page.getByLabel('Only slots with').fill('frame');
  await expect(page.getByRole('listbox').getByRole('option')).toHaveCount(2);
  await page.getByLabel('Only slots with').fill('');
  await page.getByLabel('Slots by').selectOption('sheet');
  await expect(page.getByRole('listbox')).toContainText('1 sheet');
  // The estimate gives way to what packing found.
  await expect(page.getByRole('region', { name: 'Sheet sheet' })).not.toContainText('≈', { timeout: 30_000 });
});

test('alternatives: a copy is kept, the plan changes, the copy is adopted and the other stays beside it', async ({
  page,
  server,
}) => {
  const id = await twoSigns(page, server, 'Alternatives');
  await page.getByRole('radio', { name: /^alternatives/ }).click();
  await page.getByRole('button', { name: 'Keep a copy' }).click();
  await page.getByLabel('Name of Copy 1').fill('One large sheet');
  await page.getByLabel('Name of Copy 1').press('Enter');
  await page.getByRole('radio', { name: 'board' }).click();
  await page.getByLabel('Width of sheet').selectOption('256');
  await page.getByRole('radio', { name: 'alternatives 2' }).click();
  const table = page.getByRole('region', { name: 'Alternatives' }).getByRole('table');
  await expect(table.getByRole('row', { name: /^Sheets/ })).toContainText(/256×256.*2048×2048/s);
  await expect(page.getByRole('img', { name: /Memory against sharpness/ })).toBeVisible();
  await page.getByRole('button', { name: 'Use this plan' }).click();
  const sizes = async () => {
    const d = await decisionsOf(page, server, id);
    return [d.sheets[0].size, d.alternatives[0].plan.sheets[0].size, d.alternatives[0].name];
  };
  await expect.poll(sizes).toEqual([2048, 256, 'The plan before']);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(sizes).toEqual([256, 2048, 'One large sheet']);
  await page.getByRole('button', { name: 'Redo', exact: true }).click();
  await expect.poll(sizes).toEqual([2048, 256, 'The plan before']);
  await reloadSaved(page);
  await page.getByRole('radio', { name: 'alternatives 2' }).click();
  await page.getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByRole('radio', { name: 'alternatives 1' })).toBeVisible();
});

test('a proposal on the furniture: looked through, taken in part, then whole; taken back in one step', async ({
  page,
  server,
}) => {
  const id = await newProject(page, server, 'Proposal');
  const file = join(temporary(), 'stop.glb');
  await writeFile(file, kept(buildFurniture, 0.25));
  await page.getByTestId('files').setInputFiles(file);
  await expect(page.getByTestId('total-slots')).toHaveText('13', { timeout: 90_000 });
  await goTo(page, 'Plan');
  await row(page, 'Timetable').click();
  await page.getByLabel('Importance', { exact: true }).fill('2');
  await page.getByLabel('Importance', { exact: true }).press('Enter');
  const before = async () => routesOf(await decisionsOf(page, server, id));
  await expect
    .poll(async () => (await decisionsOf(page, server, id)).weights)
    .toEqual([{ slot: 'Timetable', weight: 2 }]);
  await page.getByRole('radio', { name: 'proposal' }).click();
  await page.getByRole('button', { name: 'Propose', exact: true }).click();
  const panel = page.getByRole('region', { name: 'A proposed plan' });
  await expect(panel.getByText(/plans scored/)).toBeVisible({ timeout: 60_000 });
  await expect(panel).toContainText('draw call');
  await panel.getByLabel('Apply the route of BackWall').uncheck();
  await panel.getByRole('button', { name: 'Apply 12 routes' }).click();
  await expect.poll(async () => Object.keys(await before()).length).toBe(12);
  expect((await before()).BackWall).toBeUndefined();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(before).toEqual({});
  await page.getByRole('radio', { name: 'proposal' }).click();
  await page.getByRole('button', { name: 'Propose', exact: true }).click();
  await page.getByRole('button', { name: 'Apply plan' }).click({ timeout: 60_000 });
  await expect.poll(async () => Object.keys(await before()).length).toBe(13);
  await expect(page.getByRole('complementary', { name: 'The bill' })).toContainText('predicted');
});

test('surfaces are planned before there is any model, routed, printed, and linked to a slot', async ({
  page,
  server,
}) => {
  const id = await newProject(page, server, 'Planned');
  await goTo(page, 'Plan');
  await page.getByRole('button', { name: 'Plan a surface' }).click();
  const dialog = page.getByRole('dialog', { name: 'Plan a surface' });
  await dialog.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(dialog.getByRole('alert')).toContainText('a name is needed');
  await dialog.getByLabel('Name', { exact: true }).fill('Roof felt');
  await dialog.getByRole('spinbutton', { name: /^Surface/ }).fill('24');
  await dialog.getByLabel('Repeats').selectOption('none');
  await dialog.getByRole('button', { name: 'Add', exact: true }).click();
  const bill = page.getByRole('complementary', { name: 'The bill' });
  await expect(row(page, 'Roof felt')).toBeVisible();
  await expect(bill.getByRole('row', { name: /^Draw calls/ })).toContainText('1');
  await row(page, 'Roof felt').click();
  await page.keyboard.press('0');
  await expect(page.getByRole('region', { name: 'Kept apart' })).toContainText('Roof felt kept apart by name');
  await expect.poll(async () => (await decisionsOf(page, server, id)).planned[0].to).toBe('apart');
  const [sheet] = await Promise.all([
    page.context().waitForEvent('page'),
    page.getByRole('link', { name: 'Print the list' }).click(),
  ]);
  await expect(sheet.getByRole('heading', { name: 'Planned: planned surfaces' })).toBeVisible();
  await expect(sheet.getByRole('row', { name: /Roof felt/ })).toContainText('24.00');
  await sheet.close();
  const file = join(temporary(), 'roof.glb');
  await writeFile(file, sign({ names: ['Felt'] }).glb());
  await goTo(page, 'Survey');
  await page.getByTestId('files').setInputFiles(file);
  await expect(page.getByTestId('total-slots')).toHaveText('1', { timeout: 60_000 });
  await goTo(page, 'Plan');
  await row(page, 'Roof felt').click();
  await page.getByRole('button', { name: 'Edit' }).click();
  await page.getByLabel('Linked slot').selectOption('Felt');
  await page.getByRole('dialog').getByRole('button', { name: 'Apply' }).click();
  await expect(row(page, 'Roof felt')).toHaveCount(0);
  await expect(row(page, 'Felt')).toHaveCount(1);
  // It goes where the surface was sent.
  await expect.poll(async () => (await decisionsOf(page, server, id)).routes).toEqual([{ slot: 'Felt', to: 'apart' }]);
});

test('tiling slots are cut or put on a strip, names are required, and what was handed over is held', async ({
  page,
  server,
}) => {
  const id = await newProject(page, server, 'Ways');
  const at = temporary();
  await writeFile(join(at, 'rails.glb'), kept(buildRails));
  await writeFile(join(at, 'sign.glb'), sign({ names: ['SignFace'] }).glb());
  await page.getByTestId('files').setInputFiles([join(at, 'rails.glb'), join(at, 'sign.glb')]);
  await expect(page.getByTestId('total-slots')).toHaveText('4', { timeout: 60_000 });
  await goTo(page, 'Plan');
  const decisions = () => decisionsOf(page, server, id);
  await page.getByLabel('Width of sheet').selectOption('256');
  await row(page, 'KerbStone').click();
  await page.getByRole('button', { name: 'Use this way: Cut at the repeats' }).click();
  await expect.poll(async () => (await decisions()).cutRepeats).toEqual(['KerbStone']);
  await expect(page.getByRole('row', { name: /^Cut at the repeats/ })).toContainText('now');
  await row(page, 'HandrailSteel').click();
  await page.getByRole('button', { name: 'Use this way: Put it on a strip' }).click();
  await expect
    .poll(async () => (await decisions()).sheets.map((sheet: { kind: string }) => sheet.kind))
    .toEqual(['atlas', 'trim']);
  await expect(page.getByRole('region', { name: 'Sheet trim' })).toBeVisible();
  await page.getByLabel('Width of trim').selectOption('512');

  await page.getByRole('button', { name: 'Require names' }).click();
  await page.getByLabel(/^Slots, one a line/).fill('sheet*\ntrim\n');
  await page.getByLabel(/^Textures, one a line/).click();
  const required = page.getByRole('region', { name: 'Required names' });
  await expect(required).toContainText('the slot "BattenWood" bears no required name');
  await expect.poll(async () => (await decisions()).requiredNames).toEqual(['sheet*', 'trim']);

  await goTo(page, 'Bake');
  await page.getByRole('button', { name: 'Bake the final' }).click();
  await expect(page.getByText('Final, 256 px')).toBeVisible({ timeout: 120_000 });
  await goTo(page, 'Hand over');
  await expect(page.getByRole('row').filter({ hasText: 'Required names' })).toContainText('BattenWood');
  await goTo(page, 'Plan');
  const sheet = page.getByRole('region', { name: 'Sheet sheet' });
  await sheet.getByRole('button', { name: 'Sheet options' }).click();
  await sheet.getByRole('button', { name: 'Lock bays' }).click();
  await expect(sheet).toContainText('stay where handed over');
  const { sheets, ...rest } = await decisions();
  expect(Object.keys(sheets[0].pinned)).toHaveLength(2);
  expect(routesOf(rest)).toMatchObject({ KerbStone: sheets[0].id, SignFace: sheets[0].id });
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(async () => (await decisions()).sheets[0].pinned).toEqual({});
});

test('a wall that repeats both ways is cut one way for a strip: priced before, on the bill after, its cuts drawn in 3D', async ({
  page,
  server,
}) => {
  const id = await newProject(page, server, 'Walls');
  const at = temporary();
  await writeFile(join(at, 'walls.glb'), kept(buildWalls));
  await page.getByTestId('files').setInputFiles([join(at, 'walls.glb')]);
  await expect(page.getByTestId('total-slots')).toHaveText('1', { timeout: 60_000 });
  await goTo(page, 'Plan');
  await row(page, 'TiledBrick').click();
  const way = page.getByRole('row', { name: /^Cut for a strip/ });
  // 36 triangles come in; 120 are added by cuts along V alone, 264 by cuts both ways.
  await expect(way).toContainText('156');
  await expect(page.getByRole('row', { name: /^Cut at the repeats/ })).toContainText('300');
  await page.getByRole('button', { name: 'Use this way: Cut for a strip' }).click();
  await expect(way).toContainText('now');
  await expect(page.getByRole('region', { name: 'What is selected' })).toBeInViewport();
  const d = await decisionsOf(page, server, id);
  expect(d.cutRepeats).toEqual(['TiledBrick']);
  expect(d.sheets.find((x: { id: string }) => x.id === routesOf(d).TiledBrick)).toMatchObject({ kind: 'trim' });
  await expect(page.getByRole('row', { name: /^Triangles/ })).toContainText('156');

  await goTo(page, 'UV layout');
  await page.getByRole('radio', { name: 'Faces of models' }).click();
  await page.getByLabel('Coloured by').selectOption('stripRepeats');
  await expect(page.getByText('56 lines; 120 triangles more for one slot; chosen in Plan')).toBeVisible();
  await page.getByLabel('Coloured by').selectOption('repeats');
  await expect(page.getByText('104 lines; 264 triangles more for one slot; chosen in Plan')).toBeVisible();
});

test('five hundred slots: predicted in a worker, few rows in the page, routed by rule and by key', async ({
  page,
  server,
}) => {
  await twoSigns(page, server, 'Five hundred');
  await page.route('**/files/survey.json', async (route) => {
    const answer = await route.fetch();
    const survey = await answer.json();
    const { slots, models } = survey;
    survey.slots = Array.from({ length: 520 }, (_, i) => ({
      ...slots[i % 4],
      name: `Slot ${i}`,
      look: `look ${i}`,
      model: Math.floor(i / 13),
    }));
    survey.models = Array.from({ length: 40 }, (_, m) => ({ ...models[0], path: `pack/model-${m}.glb` }));
    await route.fulfill({ json: survey });
  });
  await reloadSaved(page);
  await expect(page.getByText('520 of 520 slots go onto one sheet')).toBeVisible();
  const rows = page.getByRole('listbox').getByRole('option');
  expect(await rows.count()).toBeLessThan(80);
  await page.getByRole('button', { name: 'Add a rule' }).click();
  await page.getByLabel('Pattern; * stands for any letters').fill('Slot 1*');
  await page.getByLabel('goes to').selectOption({ label: 'kept apart' });
  await page.getByRole('button', { name: 'Add the rule' }).click();
  // 1, 10 to 19, 100 to 199.
  await expect(page.getByText('409 of 520 slots go onto one sheet')).toBeVisible();
  await page.getByLabel('Only slots with').fill('Slot 511');
  await expect(rows).toHaveCount(1);
  await rows.first().click();
  await page.keyboard.press('0');
  await expect(page.getByText('408 of 520 slots go onto one sheet')).toBeVisible();
  // A project may just be on its way through the route when the page closes.
  await page.unrouteAll({ behavior: 'ignoreErrors' });
});
