import { parseGlb } from '@wembrel/core/formats/gltf/glb';
import { buildPostLow } from '@wembrel/demo/posts';
import { kept } from '../../packages/demo/test/kept.ts';
import { accessFaults, expect, goTo, newProject, projectOf, test } from '../app.ts';

test('light goes into vertex colours: chosen, baked, looked at, taken, and out of date after a change', async ({
  page,
  server,
}) => {
  const project = await newProject(page, server, 'Light');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles([{ name: 'post.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(kept(buildPostLow)) }]);
  await expect(page.getByText('post.glb').first()).toBeVisible();
  await goTo(page, 'Bake');
  await page.getByRole('radio', { name: 'Light' }).click();
  await expect(page.getByText('Not lit yet: the picture shows the original model.')).toBeVisible();
  await page.getByLabel('Elevation').fill('20');
  await page.keyboard.press('Enter');
  await page.getByLabel('Rays per vertex').fill('16');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Bake the light' }).click();
  await expect(page.getByText(/^\d+ vertices lit/)).toBeVisible({ timeout: 60_000 });
  await page.getByRole('radio', { name: 'vertex colours alone' }).click();
  await expect(page.getByRole('img', { name: /^3D picture of the lit model/ })).toBeVisible();

  const { jobs } = await projectOf(page, server, project);
  const glb = await page.request.get(`${server.url}/api/jobs/${jobs[0].id}/files/delivery/post.glb`);
  const { json } = parseGlb('post.glb', new Uint8Array(await glb.body()));
  const { meshes } = json as { meshes: { primitives: { attributes: Record<string, number> }[] }[] };
  expect(meshes.flatMap((mesh) => mesh.primitives).every((p) => p.attributes.COLOR_0 !== undefined)).toBe(true);

  // A change puts it out of date, undo makes it fresh.
  const head = page.getByRole('main').locator('header');
  await page.getByLabel('Sun share of light').fill('0');
  await page.keyboard.press('Enter');
  await expect(head.getByText('Baked, out of date')).toBeVisible();
  await page.getByLabel('AO strength').fill('0');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Bake the light' })).toBeDisabled();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Bake the light' })).toBeEnabled();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(head.getByText('Baked, out of date')).toBeHidden();

  await page.getByRole('button', { name: 'Use as sources' }).click();
  await expect
    .poll(async () => {
      const { sources } = await projectOf(page, server, project);
      return (sources as { path: string }[]).map((source) => source.path);
    })
    .toEqual(['lit/post.glb', 'post.glb']);
  for (const _ of ['light', 'dark']) {
    expect(await accessFaults(page)).toEqual([]);
    await page.getByRole('switch', { name: 'Dark theme' }).click();
  }
  expect(await page.evaluate(() => document.documentElement.scrollHeight > window.innerHeight)).toBe(false);
});
