import type { Page } from '@playwright/test';
import { buildFittings } from '@wembrel/demo/fittings';
import { kept } from '../../packages/demo/test/kept.ts';
import { expect, goTo, newProject, projectOf, test } from '../app.ts';

test.setTimeout(240_000);

async function addFittings(page: Page, high: Uint8Array): Promise<void> {
  const files = { 'fittings.glb': kept(buildFittings, 'low'), 'sculpt.glb': high };
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles(
      Object.entries(files).map(([name, bytes]) => ({
        name,
        mimeType: 'model/gltf-binary',
        buffer: Buffer.from(bytes),
      })),
    );
  await expect(page.getByTestId('total-drawcalls')).toHaveText('30', { timeout: 60_000 });
}

test('fifteen small parts in high and low are paired, proved and baked by one press, with finished models', async ({
  page,
  server,
}) => {
  const id = await newProject(page, server, 'Fittings');
  await addFittings(page, kept(buildFittings, 'high'));
  await goTo(page, 'Bake');
  await page.getByRole('radio', { name: 'High to low' }).click();
  await page.getByRole('button', { name: 'Bake all' }).click();
  // In one line, with what stops it.
  await expect(page.getByRole('button', { name: 'Cancel' }).first()).toBeVisible();
  await expect(page.getByText('Final, 1024 px')).toBeVisible({ timeout: 180_000 });
  const project = await projectOf(page, server, id);
  expect(project.decisions.rays.pairings).toHaveLength(15);
  const [job] = project.jobs.filter((one: { kind: string }) => one.kind === 'ray-final');
  const rays = await (await page.request.get(`${server.url}/api/jobs/${job.id}/files/rays.json`)).json();
  expect(rays.stopped).toEqual([]);
  const baked = rays.sheets.flatMap((sheet: { pairings: object[] }) => sheet.pairings);
  expect(baked).toHaveLength(15);
  for (const { missed, texels } of baked) expect(missed / texels).toBeLessThan(0.02);
  const model = await page.request.get(`${server.url}/api/jobs/${job.id}/files/delivery/${rays.sheets[0].model}`);
  expect((await model.body()).subarray(0, 4).toString()).toBe('glTF');
  await expect(page.getByRole('link', { name: /^Download .*_normal\.png/ })).toBeVisible();
  // It is one step back to where nothing was paired.
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(page.getByText('Final, 1024 px · out of date')).toBeVisible();
});

test('a proof that is wrong stops it, and is what is shown; a running one is cancelled', async ({ page, server }) => {
  const id = await newProject(page, server, 'Half');
  // High-polys of which the upper halves are missing: rays from there meet nothing.
  await addFittings(page, kept(buildFittings, 'high', 15, 10, 0.5));
  await goTo(page, 'Bake');
  await page.getByRole('radio', { name: 'High to low' }).click();
  await page.getByRole('button', { name: 'Bake all' }).click();
  await page.getByRole('button', { name: 'Cancel' }).first().click();
  await expect(page.getByRole('button', { name: 'Bake all' })).toBeEnabled({ timeout: 20_000 });
  await page.getByRole('button', { name: 'Bake all' }).click();
  await expect(page.getByRole('alert').getByText(/^Stopped after the proof: more than 2 %/)).toBeVisible({
    timeout: 120_000,
  });
  const { jobs } = await projectOf(page, server, id);
  expect(
    jobs.filter((job: { state: string }) => job.state === 'done').map((job: { kind: string }) => job.kind),
  ).toContain('ray-proof');
  await page.getByRole('radio', { name: /^Faults \d/ }).click();
  await expect(page.getByText(/missed/i).first()).toBeVisible();
});
