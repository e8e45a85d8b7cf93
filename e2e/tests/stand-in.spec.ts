import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { StandInSpec } from '@wembrel/core/decisions/stand-in';
import { buildNewsKiosk } from '@wembrel/demo/news-kiosk';
import { trialLoad } from '@wembrel/runner/trial/trial-load';
import { kept } from '../../packages/demo/test/kept.ts';
import { decide, expect, newProject, projectOf, test } from '../app.ts';
import { temporary, unpacked } from '../server.ts';

test('a heavy model becomes a light one in six clicks: dropped, proof, made, walked away from, downloaded', async ({
  page,
  server,
}) => {
  test.setTimeout(240_000);
  const file = join(temporary(), '新聞 kiosk.glb');
  await writeFile(file, kept(buildNewsKiosk, 1 / 48, 64));
  const id = await newProject(page, server, 'A kiosk, lightly');
  await page.getByTestId('files').setInputFiles(file);
  await expect(page.getByTestId('total-drawcalls')).toHaveText('13', { timeout: 60_000 });
  const spec = StandInSpec.parse({ goal: { triangles: 1500 }, size: 256, margin: 1, distance: 20 });
  await decide(page, server, id, 'A small sheet', { standIns: [{ model: '新聞 kiosk.glb', spec }] });

  await page.getByRole('button', { name: /kiosk/ }).first().click({ button: 'right' });
  await page.getByRole('menuitem', { name: 'Make a stand-in' }).click();
  await expect(page.getByText('Not made yet')).toBeVisible();
  await page.getByRole('button', { name: 'Proof', exact: true }).click();
  await expect(page.getByText('A proof is not held against its source.')).toBeVisible({ timeout: 90_000 });
  await page.getByRole('button', { name: 'Make the stand-in' }).click();
  await expect(page.getByRole('heading', { name: 'Levels of detail' }).nth(1)).toBeVisible({ timeout: 120_000 });
  await expect(page.getByRole('row', { name: 'Draw calls 13 1', exact: true })).toBeVisible();

  await test.step('from far away a lighter level is drawn', async () => {
    const tag = page.getByText(/^Stand-in, level/);
    await expect(tag).toHaveText('Stand-in, level full');
    await page.getByRole('slider', { name: 'Go away' }).fill('6');
    await expect(tag).not.toHaveText('Stand-in, level full');
  });

  await test.step('the ZIP, unpacked elsewhere, loads as an engine would', async () => {
    const link = page.getByRole('link', { name: 'Download (ZIP)' });
    const zip = await page.request.get(`${server.url}${await link.getAttribute('href')}`);
    const at = await unpacked(new Uint8Array(await zip.body()));
    const trial = await trialLoad(at);
    expect(trial.problems).toEqual([]);
    expect(trial.verified?.good).toBe(trial.verified?.of);
    expect(trial.models.every(({ drawCalls }) => drawCalls === 1)).toBe(true);
    expect(JSON.parse(await readFile(join(at, 'manifest.json'), 'utf8')).models.length).toBeGreaterThan(1);
  });

  await test.step('another goal makes it out of date; undo takes that back', async () => {
    await page.getByLabel('Triangles', { exact: true }).fill('900');
    await page.getByLabel('Triangles', { exact: true }).press('Enter');
    await expect(page.getByText('Made, out of date')).toBeVisible();
    // In a field the keys undo what was typed.
    await page.getByRole('heading', { name: 'Bake', exact: true }).click();
    await page.keyboard.press('Control+z');
    await expect(page.getByText('Made, out of date')).toBeHidden();
    const { decisions } = await projectOf(page, server, id);
    expect(decisions.standIns[0].spec.goal).toEqual({ triangles: 1500 });
  });
});

test('a stand-in that cannot be made says why, and what stays apart stays', async ({ page, server }) => {
  const id = await newProject(page, server, 'A kiosk of glass');
  const file = join(temporary(), 'kiosk.glb');
  await writeFile(file, kept(buildNewsKiosk, 1 / 48, 64));
  await page.getByTestId('files').setInputFiles(file);
  await expect(page.getByTestId('total-drawcalls')).toHaveText('13', { timeout: 60_000 });
  const spec = StandInSpec.parse({ as: 'hull', cell: 1e-5 });
  await decide(page, server, id, 'Far too fine', { standIns: [{ model: 'kiosk.glb', spec }] });
  await page.goto(`${server.url}/p/${id}/bake?of=stand-in`);
  await page.getByRole('button', { name: 'Proof', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('take wider ones', { timeout: 60_000 });
  await expect(page.getByText('Not made yet')).toBeVisible();
});
