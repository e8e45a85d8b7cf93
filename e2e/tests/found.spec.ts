import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { sign } from '@wembrel/demo/broken';
import sharp from 'sharp';
import { accessFaults, decide, expect, goTo, newProject, projectOf, test } from '../app.ts';
import { type Server, temporary } from '../server.ts';

/** A project with one sign of two slots, read. */
async function oneSign(page: Page, server: Server, name: string): Promise<string> {
  const id = await newProject(page, server, name);
  const file = join(temporary(), 'wait-sign.glb');
  await writeFile(file, sign({ names: ['WaitEnamel', 'WaitFrame'] }).glb());
  await page.getByTestId('files').setInputFiles(file);
  await expect(page.getByTestId('total-slots')).toHaveText('2', { timeout: 60_000 });
  return id;
}

test('what is in sight stands in the address: tabs, the way back, a reload; Ctrl K finds slots and findings', async ({
  page,
  server,
}) => {
  await oneSign(page, server, 'Addresses');
  await expect(page).toHaveTitle('Survey · Addresses · Wembrel', { timeout: 60_000 });
  await page.getByRole('radio', { name: /^Slots/ }).click();
  await expect(page).toHaveURL(/\/survey\?table=slots$/);
  await page.getByRole('radio', { name: 'density' }).click();
  await goTo(page, 'Plan');
  await expect(page).toHaveURL(/\/plan$/);
  await page.goBack();
  await expect(page.getByRole('radio', { name: 'density' })).toBeChecked();
  await page.goBack();
  await expect(page.getByRole('radio', { name: 'shelf' })).toBeChecked();
  await expect(page.getByRole('radio', { name: /^Slots/ })).toBeChecked();

  await page.keyboard.press('Control+k');
  await page.getByPlaceholder('An action, a slot, a model or a finding').fill('frame');
  await expect(page.getByRole('option')).toHaveText([/WaitFrame.*wait-sign\.glb/]);
  expect(await accessFaults(page)).toEqual([]);
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/\/plan\?model=0&slots=1$/);
  const chosen = page.getByRole('listbox').getByRole('option', { selected: true });
  await expect(chosen).toHaveText(/WaitFrame/);
  await page.reload();
  await expect(chosen).toHaveText(/WaitFrame/, { timeout: 30_000 });

  await page.keyboard.press('Control+k');
  await page.keyboard.type('nobody has this');
  await expect(page.getByText('No match')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(chosen).toHaveText(/WaitFrame/);
});

test('a baked map is read texel by texel, by pointer and by keys; profiles are handed over and named', async ({
  page,
  server,
}) => {
  const id = await oneSign(page, server, 'Texels');
  await decide(page, server, id, 'A small sheet', {
    sheets: [{ ...(await projectOf(page, server, id)).decisions.sheets[0], size: 256 }],
  });
  await goTo(page, 'Hand over');
  await expect(page.getByRole('heading', { name: 'Nothing to hand over yet' })).toBeVisible();
  await page.getByRole('button', { name: 'Bake the final' }).click();
  await page.getByRole('checkbox', { name: 'One file a channel' }).check({ timeout: 90_000 });
  await expect(page.getByRole('status').filter({ hasText: 'Out of date' })).toBeVisible();
  await page.getByRole('button', { name: 'Bake the final' }).click();
  await expect(page.getByTestId('delivery')).toContainText('profiles/one-per-channel/', { timeout: 90_000 });
  await expect(page.getByTestId('delivery')).toContainText('sheet_color.png');
  const { jobs } = await projectOf(page, server, id);
  const base = `${server.url}/api/jobs/${jobs[0].id}/files/delivery`;
  const manifest = await (await page.request.get(`${base}/manifest.json`)).json();
  expect(manifest.profiles.map(({ name }: { name: string }) => name)).toEqual(['one-per-channel']);

  await page.getByRole('button', { name: 'View texels of textures/sheet_baseColor.png' }).click();
  const viewer = page.getByRole('dialog', { name: 'textures/sheet_baseColor.png' });
  await expect(viewer.getByText('256 × 256 px, 8 bit, sRGB')).toBeVisible();
  await expect(viewer.getByRole('img')).toBeVisible();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await expect(viewer.getByText('1, 2', { exact: true })).toBeVisible();
  // The values are those of another decoder.
  const png = Buffer.from(await (await page.request.get(`${base}/textures/sheet_baseColor.png`)).body());
  const { data } = await sharp(png).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  const [red, green, blue] = data.subarray((2 * 256 + 1) * 4);
  const hex = `#${[red, green, blue].map((v) => v.toString(16).padStart(2, '0')).join('')}`;
  await expect(viewer.getByText(hex, { exact: true })).toBeVisible();

  await viewer.getByRole('button', { name: '100 %' }).click();
  await expect(viewer.getByRole('status')).toHaveText('100 %');
  for (let i = 0; i < 5; i++) await viewer.getByRole('button', { name: 'Zoom in' }).click();
  await expect(viewer.getByRole('status')).toHaveText('800 %');
  await viewer.getByRole('slider').fill('8');
  await expect(viewer.getByText('Mip 8')).toBeVisible();
  await viewer.getByRole('checkbox', { name: 'As the engine sees it' }).check();
  await viewer.getByRole('checkbox', { name: 'R', exact: true }).uncheck();
  expect(await accessFaults(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await expect(viewer).toBeHidden();

  await test.step('a profile is changed on the tree of its files; what collides keeps it from being saved', async () => {
    const line = page.getByRole('listitem').filter({ hasText: 'One file a channel' });
    await line.getByText('7 files a sheet').click();
    await line.getByRole('button', { name: 'Edit a copy' }).click();
    const editor = page.getByRole('dialog', { name: 'Edit profile' });
    await editor.getByLabel('Name and folder').fill('masks');
    await editor.getByLabel('File name').nth(1).fill('{sheet}_color');
    await expect(editor.getByRole('alert')).toContainText('two images are called "{sheet}_color"');
    await expect(editor.getByRole('button', { name: 'Save' })).toBeDisabled();
    await editor.getByLabel('File name').nth(1).fill('{sheet}_clear');
    await editor.getByRole('combobox', { name: 'red', exact: true }).nth(1).selectOption('1 − opacity');
    expect(await accessFaults(page)).toEqual([]);
    await editor.getByRole('button', { name: 'Save' }).click();
    await expect(page.getByRole('checkbox', { name: 'One file a channel, own' })).toBeChecked();
    await expect
      .poll(async () => (await projectOf(page, server, id)).decisions.profiles.at(-1))
      .toMatchObject({
        name: 'masks',
        images: [{}, { name: '{sheet}_clear', red: { value: 'opacity', inverted: true } }, {}, {}, {}, {}, {}],
      });
  });

  await test.step('every view of the comparison can be looked at from its distance', async () => {
    await goTo(page, 'Compare');
    const metres = async () => Number(await page.getByLabel('Viewing distance, m').inputValue());
    await page.getByRole('button', { name: 'framed', exact: true }).click({ timeout: 60_000 });
    await expect.poll(metres).toBeGreaterThan(0);
    const framed = await metres();
    await page.getByRole('button', { name: 'far, 3 ×' }).click();
    await expect.poll(async () => (await metres()) / framed).toBeCloseTo(3, 1);
    await page.getByRole('button', { name: 'above front' }).click();
    await expect.poll(async () => (await metres()) / framed).toBeLessThan(2);
    await page.getByRole('radio', { name: 'difference' }).click();
    await page.getByLabel('Gain of the difference').selectOption('32');
    await expect(page).toHaveURL(/compare\?.*mode=difference/);
  });
});
