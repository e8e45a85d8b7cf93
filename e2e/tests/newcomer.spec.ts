import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { sign } from '@wembrel/demo/broken';
import { buildFurniture } from '@wembrel/demo/furniture';
import { kept } from '../../packages/demo/test/kept.ts';
import { compareSmall, expect, goTo, projectOf, test } from '../app.ts';
import { temporary } from '../server.ts';

test.setTimeout(240_000);

test('files are dropped: a plan is made for them, what more could be gained stands in one line, one click takes it, the next delivers it', async ({
  page,
  server,
}) => {
  const folder = temporary();
  const files = { 'stop.glb': kept(buildFurniture, 0.25), 'sign.glb': sign({ names: ['Front', 'Back'] }).glb() };
  for (const [name, bytes] of Object.entries(files)) await writeFile(join(folder, name), bytes);
  await page.addInitScript(() => {
    if (location.protocol === 'http:') localStorage.setItem('wembrel-guide', 'on');
  });
  const guide = page.getByRole('region', { name: 'Guide' });
  await page.goto(server.url);
  await page.getByLabel('New project').fill('Newcomer');
  await page.getByRole('button', { name: 'Create' }).click();
  await page.waitForURL(/\/p\/[^/]+\/survey/);
  const id = new URL(page.url()).pathname.split('/')[2];
  await expect(guide).toContainText('1 of 5: Add models.');
  await page.getByTestId('files').setInputFiles(Object.keys(files).map((name) => join(folder, name)));
  await expect(page.getByTestId('total-drawcalls')).toHaveText('18', { timeout: 60_000 });
  const bill = page.getByRole('complementary', { name: 'The bill' });
  const offer = bill.getByRole('region', { name: 'What could be gained' });

  await test.step('the plan is made for the files, and may be undone like any change', async () => {
    await expect.poll(async () => (await projectOf(page, server, id)).undo).toBe('Plan for these files');
    const { decisions } = await projectOf(page, server, id);
    expect(decisions.scale).toBe('detail');
    expect(decisions.sheets).toHaveLength(1);
    // Less than the 2048 px that an empty plan has: nothing here needs as much.
    expect(decisions.sheets[0].size).toBeLessThan(2048);
    expect(decisions.leftOut).toEqual([{ slot: 'ShelterGlass', why: 'no-gain' }]);
  });

  await test.step('what joining would save is offered with its price', async () => {
    await expect(offer).toContainText(/To be gained: \d+ → 7 draw calls/, { timeout: 30_000 });
    await offer.getByText('parts are joined across nodes').click();
    // The nodes that would go, by name.
    await expect(offer.getByRole('listitem').filter({ hasText: /^lamp post$/ })).toBeVisible();
    await offer.getByRole('button', { name: 'Review' }).click();
    await expect(page.getByRole('heading', { name: 'A proposed plan' })).toBeVisible();
  });

  await test.step('one click takes it', async () => {
    await offer.getByRole('button', { name: 'Apply' }).click();
    await expect(offer).toBeHidden({ timeout: 30_000 });
    await expect(bill.getByRole('row', { name: /Draw calls/ })).toContainText('7');
  });

  await test.step('the next delivers it, as predicted', async () => {
    await compareSmall(page, server, id);
    await goTo(page, 'Bake');
    await page.getByRole('button', { name: 'Bake the final' }).click();
    await expect(page.getByText(/^Final, /)).toBeVisible({ timeout: 120_000 });
    await expect(bill.getByRole('row', { name: /Draw calls/ })).toHaveText(/^Draw calls\s*18\s*7$/);
    await expect(guide).toContainText('5 of 5: Download.');
    await guide.getByRole('button', { name: 'Go there' }).click();
    await expect(page.getByRole('link', { name: 'Download as ZIP' })).toBeVisible();
    await guide.getByRole('button', { name: 'Dismiss the guide' }).click();
    await expect(guide).toBeHidden();
  });
});
