import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { buildSigns } from '@wembrel/demo/signs';
import { trialLoad } from '@wembrel/runner/trial/trial-load';
import { kept } from '../../packages/demo/test/kept.ts';
import { decide, expect, goTo, newProject, projectOf, test } from '../app.ts';
import { temporary, unpacked } from '../server.ts';

test('forty signs become one material: Y down and packed, with hulls, as a ZIP that is loaded elsewhere with the counts of the bill', async ({
  page,
  server,
}) => {
  test.setTimeout(240_000);
  const folder = temporary();
  const files = await Promise.all(
    Object.entries(kept(buildSigns)).map(async ([name, bytes]) => {
      const path = join(folder, name.split('/').at(-1) as string);
      await writeFile(path, bytes);
      return path;
    }),
  );
  const id = await newProject(page, server, 'Forty signs, handed over');
  const { decisions } = await projectOf(page, server, id);
  await decide(page, server, id, 'A small sheet', { sheets: [{ ...decisions.sheets[0], size: 256, margin: 4 }] });
  await page.getByTestId('files').setInputFiles(files);
  await expect(page.getByTestId('total-drawcalls')).toHaveText('40', { timeout: 60_000 });
  // What is handed over is decided where it is seen: a proof shows the view.
  await goTo(page, 'Bake');
  await page.getByRole('button', { name: 'Bake a proof' }).click();
  await expect(page.getByText(/^Proof, /)).toBeVisible({ timeout: 90_000 });
  await goTo(page, 'Hand over');
  await page.getByRole('checkbox', { name: /Normal Y down; AO, roughness, metallic packed/ }).check();
  await page.getByRole('checkbox', { name: 'One name for materials that look the same' }).check();
  await page.getByLabel('Shape', { exact: true }).selectOption('convex hull');
  await page.getByLabel('Faces of a hull, at most').fill('12');
  await page.getByLabel('Faces of a hull, at most').press('Enter');
  await page.getByRole('button', { name: 'Bake the final' }).click();
  const trialRow = page.getByRole('row', { name: /Trial load/ });
  await expect(trialRow).toContainText('40 models; all counts as the bill says', { timeout: 120_000 });
  await expect(page.getByRole('row', { name: /SHA-256 of each file/ })).toContainText(/^✓/);

  await test.step('the 3D library loads the same files, and draws what the bill says', async () => {
    const panel = page.getByRole('region', { name: 'Trial load' });
    await panel.getByRole('button', { name: 'Load in 3D' }).click();
    const drawn = panel.getByRole('row', { name: /^Draw calls/ }).getByRole('cell');
    await expect(drawn).toHaveCount(3, { timeout: 60_000 });
    await expect(drawn).toHaveText(['40', '40', '40']);
    await expect(panel.getByText('No problems.')).toBeVisible();
  });

  await test.step('the ZIP, unpacked elsewhere', async () => {
    const link = page.getByRole('link', { name: 'Download as ZIP' });
    const zip = await page.request.get(`${server.url}${await link.getAttribute('href')}`);
    const at = await unpacked(new Uint8Array(await zip.body()));
    const trial = await trialLoad(at);
    const { jobs } = await projectOf(page, server, id);
    const result = await (await page.request.get(`${server.url}/api/jobs/${jobs[0].id}/files/result.json`)).json();
    expect(trial).toMatchObject({
      problems: [],
      drawCalls: result.after.drawCalls,
      materials: 40,
      materialNames: 1,
      textures: result.after.textures,
      gpuBytes: result.after.textureBytes.rgba8,
    });
    expect(trial.verified?.good).toBe(trial.verified?.of);
    const names = result.written as string[];
    expect(names.filter((name) => /^collision\/.*\.glb$/.test(name))).toHaveLength(40);
    expect(names).toContain('profiles/y-down-packed/sheet_color.png');
  });
});
