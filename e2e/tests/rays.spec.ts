import type { Page } from '@playwright/test';
import { buildPostHigh, buildPostLow } from '@wembrel/demo/posts';
import { kept } from '../../packages/demo/test/kept.ts';
import { accessFaults, expect, goTo, newProject, projectOf, test } from '../app.ts';

/** The ticket post in high and low, at what is baked of it. */
async function openPost(page: Page): Promise<void> {
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles([
      { name: 'post_high.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(kept(buildPostHigh, 10)) },
      { name: 'post_low.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(kept(buildPostLow)) },
    ]);
  await expect(page.getByText('post_high.glb').first()).toBeVisible();
  await goTo(page, 'Bake');
  await page.getByRole('radio', { name: 'High to low' }).click();
}

test('a high-poly is baked onto a low-poly: paired by names, proved, looked into, its reach dragged and found; undo', async ({
  page,
  server,
}) => {
  const project = await newProject(page, server, 'Post');
  await openPost(page);
  await expect(page.getByRole('heading', { name: 'No pairing yet' })).toBeVisible();
  await page.getByRole('button', { name: 'Pair by names' }).click();
  await expect(page.getByRole('button', { name: /^ticket post_high.*not baked$/ })).toBeVisible();

  await page.getByRole('button', { name: 'Bake a proof' }).click();
  const section = page.getByRole('group', { name: /^Section through "ticket post"/ });
  await expect(section).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText(/mm (above|below) the low-poly/)).toBeVisible();
  await expect(page.getByText('Proof, 256 px')).toBeVisible();
  // The section is turned by keys, and follows a click on the map.
  await section.focus();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByText('15°')).toBeVisible();
  const before = await section.locator('path').nth(1).getAttribute('d');
  const map = page.getByRole('group', { name: /^Sheet post_low/ });
  const box = await map.boundingBox();
  if (!box) throw new Error('the map is not there');
  await page.mouse.click(box.x + box.width * 0.3, box.y + box.height * 0.35);
  await expect.poll(() => section.locator('path').nth(1).getAttribute('d')).not.toBe(before);

  // Another map, on the sheet and on the model.
  await page.getByRole('radio', { name: 'AO' }).check();
  await page.getByRole('radio', { name: 'map', exact: true }).click();
  await expect(page.getByRole('link', { name: /^Download post_low_ao\.png/ })).toBeVisible();

  // A reach by keyboard; what was baked is out of date then, and undo makes it fresh again.
  const reach = page.getByRole('slider', { name: 'Outward reach' });
  const measured = await reach.getAttribute('aria-valuetext');
  await reach.focus();
  await page.keyboard.press('ArrowRight');
  await expect(reach).not.toHaveAttribute('aria-valuetext', measured ?? '');
  await expect(page.getByText('Proof, 256 px · out of date')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(reach).toHaveAttribute('aria-valuetext', measured ?? '');
  await expect(page.getByText('Proof, 256 px', { exact: true })).toBeVisible();

  await page.getByRole('button', { name: 'Proof of this pairing' }).click();
  const proofs = async () => {
    const { jobs } = await projectOf(page, server, project);
    return (jobs as { id: string; kind: string; state: string }[]).filter(
      (j) => j.kind === 'ray-proof' && j.state === 'done',
    );
  };
  await expect.poll(async () => (await proofs()).length, { timeout: 60_000 }).toBe(2);
  await expect(page.getByRole('button', { name: 'Bake a proof' })).toBeEnabled({ timeout: 60_000 });
  await expect(section).toBeVisible();
  // Nothing has changed since: another proof takes over what this one made.
  const [known] = await proofs();
  await page.getByRole('button', { name: 'Bake a proof' }).click();
  await expect.poll(async () => (await proofs()).length, { timeout: 60_000 }).toBe(3);
  const [again] = await proofs();
  const raysOf = async (id: string) => (await page.request.get(`${server.url}/api/jobs/${id}/files/rays.json`)).json();
  const [one, two] = [await raysOf(known.id), await raysOf(again.id)];
  expect(two.rays).toBe(0);
  expect(two.sheets).toEqual(one.sheets);
  await expect(section).toBeVisible();
  await page.getByRole('button', { name: 'Find reaches' }).click();
  const take = page.getByRole('button', { name: /^Use [\d.]+ mm outward, [\d.]+ mm inward$/ });
  await expect(take).toBeVisible({ timeout: 60_000 });
  await take.click();
  await expect(page.getByRole('button', { name: 'Use measured reaches' })).toBeVisible();

  // What is baked is chosen; faults lead to their places.
  await page.getByRole('radio', { name: 'Settings' }).click();
  await page.getByRole('checkbox', { name: 'Thickness' }).check();
  await page.getByLabel('Size').selectOption('256');
  await page.getByRole('button', { name: 'Bake the final' }).click();
  await expect(page.getByText('Final, 256 px')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('radio', { name: 'Thickness' })).toBeVisible();

  // Local reaches: at the picked texel, and by a click on the low-poly; what they did is undone like all else.
  await page.getByRole('radio', { name: 'Local reaches' }).click();
  await page.getByRole('button', { name: 'Add at the picked texel' }).click();
  await expect(page.getByRole('button', { name: /^1 · .* out 200 %$/ })).toBeVisible();
  const model = page.getByRole('img', { name: /^3D picture of the low-poly/ });
  const seen = await model.boundingBox();
  if (!seen) throw new Error('the low-poly is not there');
  await page.mouse.click(seen.x + seen.width / 2, seen.y + seen.height / 2);
  await expect(page.getByRole('button', { name: /^2 · / })).toBeVisible();
  await page.getByRole('complementary').getByRole('spinbutton', { name: 'Inward reach' }).fill('50');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: /^2 · .* in 50 %$/ })).toBeVisible();
  // The page shows a change before the server has it.
  const localReaches = async () => {
    const { decisions } = await projectOf(page, server, project);
    return decisions.rays.pairings[0].localReaches;
  };
  await expect.poll(localReaches).toMatchObject([
    { outward: 2, inward: 1 },
    { outward: 2, inward: 0.5 },
  ]);
  // On a face of the post: it stands about the vertical axis, less than half a metre from it.
  const [, second] = await localReaches();
  expect(Math.hypot(second.at[0], second.at[2])).toBeLessThan(0.5);
  const undo = page.getByRole('button', { name: 'Undo' });
  await undo.click();
  await expect(page.getByRole('button', { name: /^2 · .* out 200 %$/ })).toBeVisible();
  await undo.click();
  await expect(page.getByRole('button', { name: /^2 · / })).toBeHidden();
  await undo.click();
  await expect(page.getByRole('button', { name: /^1 · / })).toBeHidden();
  await page.getByRole('radio', { name: /^Faults/ }).click();
  await page
    .getByRole('button', { name: /^skewed|^stray|^missed/ })
    .first()
    .click();
  await expect(page.getByText(/(Cast along|Shorten the|Widen the)/)).toBeVisible();
  for (const tab of [/^Faults/, 'Settings', /^Pairings/, 'Local reaches'])
    for (const _ of ['light', 'dark']) {
      await page.getByRole('radio', { name: tab }).click();
      await page.getByRole('switch', { name: 'Dark theme' }).click();
      expect(await accessFaults(page), String(tab)).toEqual([]);
    }
  expect(await page.evaluate(() => document.documentElement.scrollHeight > window.innerHeight)).toBe(false);
  // What was baked goes on like any model: as a source of this project, and of one without the high-poly.
  await page.getByRole('button', { name: 'Use as sources' }).click();
  await expect
    .poll(async () => {
      const { sources } = await projectOf(page, server, project);
      return (sources as { path: string }[]).map((source) => source.path);
    })
    .toContain('baked/post_low.glb');
  await page.getByRole('button', { name: 'Bake this part' }).click();
  await expect(page.getByText('Part of the final, 256 px')).toBeVisible({ timeout: 60_000 });
  const state = await projectOf(page, server, project);
  expect(state.decisions.rays.settings).toMatchObject({ size: 256, maps: ['normal', 'ao', 'thickness'] });
  // A part is no model to go on with.
  await expect(page.getByRole('button', { name: 'New project from these results' })).toBeHidden();
  await page.getByRole('button', { name: 'Bake the final' }).click();
  await expect(page.getByText('Final, 256 px')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'New project from these results' }).click();
  await page.waitForURL((u) => u.pathname.endsWith('/survey') && !u.pathname.includes(project));
  await expect(page.getByText('post_low.glb').first()).toBeVisible({ timeout: 30_000 });
  const made = new URL(page.url()).pathname.split('/')[2];
  await expect
    .poll(async () => {
      const { survey } = await projectOf(page, server, made);
      return survey?.slots.map((slot: { name: string }) => slot.name);
    })
    .toEqual(['post_low']);
});

test('a running bake waits when it is paused, goes on when it is let, and is cancelled while it waits', async ({
  page,
  server,
}) => {
  const project = await newProject(page, server, 'Pause');
  await openPost(page);
  await page.getByRole('button', { name: 'Pair by names' }).click();
  await page.getByRole('radio', { name: 'Settings' }).click();
  await page.getByLabel('Size').selectOption('4096');
  await page.getByRole('button', { name: 'Bake the final' }).click();
  const main = page.getByRole('main');
  await main.getByRole('button', { name: 'Pause' }).click({ timeout: 60_000 });
  await expect(main.getByText(/% · paused$/)).toBeVisible();
  const shareOf = async () => {
    const { jobs } = await projectOf(page, server, project);
    return jobs[0] as { share: number; paused: boolean; state: string };
  };
  const held = await shareOf();
  expect(held).toMatchObject({ paused: true, state: 'running' });
  // The tiles under way are finished, then nothing moves.
  const shown = () => main.getByRole('progressbar').getAttribute('aria-valuenow');
  let last = await shown();
  await expect
    .poll(
      async () => {
        const before = last;
        last = await shown();
        return last === before;
      },
      { timeout: 30_000, intervals: [1500] },
    )
    .toBe(true);
  await main.getByRole('button', { name: 'Go on' }).click();
  await expect(main.getByText(/paused$/)).toBeHidden();
  await main.getByRole('button', { name: 'Pause' }).click();
  await main.getByRole('button', { name: 'Cancel' }).click();
  await expect.poll(async () => (await shareOf()).state, { timeout: 30_000 }).toBe('cancelled');
});

test('a pairing without a partner is refused in a sentence, and nothing is lost', async ({ page, server }) => {
  const project = await newProject(page, server, 'Half a pair');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles([{ name: 'post_low.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(kept(buildPostLow)) }]);
  await expect(page.getByText('post_low.glb').first()).toBeVisible();
  await goTo(page, 'Bake');
  await page.getByRole('radio', { name: 'High to low' }).click();
  await page.getByRole('button', { name: 'New', exact: true }).click();
  await page.getByLabel('Add a low-poly').selectOption({ label: 'ticket post_low (30)' });
  await expect(page.getByText('ticket post_low').first()).toBeVisible();
  await expect(page.getByRole('button', { name: 'Bake a proof' })).toBeDisabled();
  const answer = await page.request.post(`${server.url}/api/projects/${project}/jobs`, {
    headers: { origin: server.url },
    data: { kind: 'ray-proof' },
  });
  expect(answer.ok()).toBe(true);
  await expect(page.getByText('no pairing has both a high-poly and a low-poly yet').first()).toBeVisible({
    timeout: 30_000,
  });
  const missing = await page.request.get(`${server.url}/api/jobs/none/section?x=1&y=1`);
  expect(missing.status()).toBe(404);
});
