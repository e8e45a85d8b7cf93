import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { buildFurniture } from '@wembrel/demo/furniture';
import { kept } from '../../packages/demo/test/kept.ts';
import { expect, goTo, newProject, projectOf, test } from '../app.ts';
import { temporary } from '../server.ts';

test('three of sixteen objects are merged, the rest stays as it is; then each object has a sheet', async ({
  page,
  server,
}) => {
  const file = join(temporary(), 'stop-furniture.glb');
  await writeFile(file, kept(buildFurniture, 0.25));
  const id = await newProject(page, server, 'Some objects');
  await page.getByTestId('files').setInputFiles(file);
  await expect(page.getByTestId('total-drawcalls')).toBeVisible({ timeout: 60_000 });
  await goTo(page, 'Plan');
  const objects = page.getByRole('region', { name: 'Objects' });

  await test.step('a click in the 3D picture chooses an object, one beside it lets it go', async () => {
    const picture = page.getByRole('img', { name: /click an object to choose it/ });
    await expect(picture).toBeVisible({ timeout: 30_000 });
    const box = await picture.boundingBox();
    if (!box) throw new Error('there is no 3D picture');
    const merge = objects.getByRole('button', { name: 'Merge only these' });
    const places = [0.5, 0.4, 0.6, 0.3, 0.7].flatMap((y) => [0.5, 0.4, 0.6, 0.3, 0.7].map((x) => [x, y]));
    await expect(async () => {
      for (const [x, y] of places) {
        await picture.click({ position: { x: box.width * x, y: box.height * y } });
        if (await merge.isEnabled()) return;
      }
      throw new Error('nothing was hit');
    }).toPass({ timeout: 60_000 });
    await expect(objects.getByRole('checkbox', { checked: true })).toHaveCount(1);
    await picture.click({ position: { x: 4, y: 4 } });
    await expect(merge).toBeDisabled();
  });

  await test.step('what a chosen object shares with others gets a slot of its own', async () => {
    for (const name of ['bench', 'lamp globe', 'lamp post']) {
      const box = objects.getByRole('checkbox', { name, exact: true });
      if (!(await box.isVisible())) await objects.getByRole('button', { name: 'All 16' }).click();
      await box.check();
    }
    await objects.getByRole('button', { name: 'Merge only these' }).click();
    await expect(objects.getByText('Only 3 objects are merged')).toBeVisible();
    await expect(page.getByRole('option', { name: /CastIron \(lamp post\)/ })).toBeVisible({ timeout: 60_000 });
    await expect(page.getByText('3 of 15 slots go onto one sheet')).toBeVisible();
  });

  await test.step('the rest is delivered with its own slots', async () => {
    await goTo(page, 'Bake');
    await page.getByRole('button', { name: 'Bake a proof' }).click();
    await expect(page.getByText(/^Proof, \d+ px/)).toBeVisible({ timeout: 120_000 });
    const { jobs } = await projectOf(page, server, id);
    const proof = jobs.find((job: { kind: string }) => job.kind === 'proof');
    const result = await (await page.request.get(`${server.url}/api/jobs/${proof.id}/files/result.json`)).json();
    const apart = result.keptApart.map((slot: { code: string }) => slot.code);
    expect(new Set(apart)).toEqual(new Set(['not-chosen']));
    expect(apart).toHaveLength(12);
    expect(result.sheets).toHaveLength(1);
    expect(result.after.slots).toBe(13);
  });

  await test.step('a result is taken away, and undo brings it back', async () => {
    await goTo(page, 'Bake');
    await page.getByRole('button', { name: 'Remove this proof' }).click();
    await expect(page.getByText('Nothing baked yet')).toBeVisible();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByText(/^Proof, \d+ px/)).toBeVisible();
  });

  await test.step('and back: all are merged, then each object has a sheet called after it', async () => {
    await goTo(page, 'Plan');
    await objects.getByRole('button', { name: 'Merge all again' }).click();
    await expect(page.getByRole('option', { name: /CastIron \(lamp post\)/ })).toHaveCount(0, { timeout: 60_000 });
    await objects.getByRole('button', { name: 'A sheet for each' }).click();
    await expect(page.getByText('16 sheets').first()).toBeVisible();
    const { decisions } = await projectOf(page, server, id);
    expect(decisions.sheets.map((sheet: { name: string }) => sheet.name)).toContain('lamp post');
  });
});
