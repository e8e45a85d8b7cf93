import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { buildLampPosts } from '@wembrel/demo/dressed/lamp-posts';
import { buildLocker, lockerIds } from '@wembrel/demo/dressed/parcel-locker';
import { trialLoad } from '@wembrel/runner/trial/trial-load';
import sharp from 'sharp';
import { kept } from '../../packages/demo/test/kept.ts';
import { expect, goTo, newProject, projectOf, reloadSaved, test } from '../app.ts';
import { type Server, temporary, unpacked } from '../server.ts';

/** A project with files, on Bake › Recipe, tuned small. */
async function opened(page: Page, server: Server, name: string, files: Record<string, Uint8Array>): Promise<string> {
  const id = await newProject(page, server, name);
  const folder = temporary();
  for (const [file, bytes] of Object.entries(files)) await writeFile(join(folder, file), bytes);
  await page.getByTestId('files').setInputFiles(Object.keys(files).map((file) => join(folder, file)));
  await expect(page.getByTestId('total-drawcalls')).not.toHaveText('–', { timeout: 60_000 });
  await page.goto(`${server.url}/p/${id}/bake?of=recipe`);
  return id;
}

const laid = (page: Page) =>
  expect(page.getByRole('status')).toHaveAttribute('data-state', 'laid', { timeout: 60_000 });

const line = (page: Page, name: string) => page.locator(`li[data-line="${name}"]`);

async function recipesOf(page: Page, server: Server, id: string) {
  const { decisions } = await projectOf(page, server, id);
  return decisions.recipes as {
    recipe: { name: string; lines: { name: string; where: unknown; how: { strength: number } }[] };
  }[];
}

test('from nothing to a dressed model that is handed over, by mouse', async ({ page, server }) => {
  test.setTimeout(240_000);
  const id = await opened(page, server, 'A locker', {
    'locker.glb': kept(buildLocker),
    'locker-ids.png': kept(lockerIds, 64),
  });
  await page.getByRole('button', { name: 'Begin an empty recipe' }).click();
  await page.getByLabel('Tuned at').selectOption('256');
  await page.getByRole('combobox', { name: 'Write the first line' }).selectOption('enamel');
  await laid(page);
  await page.getByRole('combobox', { name: 'Add a line' }).selectOption('rust');
  await expect(line(page, 'rust')).toHaveAttribute('data-open', 'true');
  await line(page, 'rust').getByRole('combobox', { name: '+ only …' }).selectOption('convex');
  await laid(page);
  await expect(page.getByLabel('How often each value of convexity is met')).toBeVisible({ timeout: 20_000 });

  await test.step('a number is dragged: one step of undo', async () => {
    const strength = line(page, 'rust').getByRole('spinbutton', { name: 'Strength' });
    await expect(strength).toHaveAttribute('aria-valuenow', '100');
    const box = await strength.boundingBox();
    if (!box) throw new Error('the number is not in sight');
    await page.mouse.move(box.x + 5, box.y + 5);
    await page.mouse.down();
    await page.mouse.move(box.x - 15, box.y + 5, { steps: 5 });
    await page.mouse.up();
    await expect(strength).toHaveAttribute('aria-valuenow', '75');
    await page.getByRole('heading', { name: 'Bake', exact: true }).click();
    await page.keyboard.press('Control+z');
    await expect(strength).toHaveAttribute('aria-valuenow', '100');
    await page.keyboard.press('Control+Shift+z');
    await expect(strength).toHaveAttribute('aria-valuenow', '75');
  });

  await test.step('places are marked on the model; undo takes them back', async () => {
    await line(page, 'rust').getByRole('button', { name: '+ mark places' }).click();
    const canvas = page.getByRole('img', { name: /^3D picture of locker.glb/ });
    const box = await canvas.boundingBox();
    if (!box) throw new Error('the model is not in sight');
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + 20, y + 10, { steps: 4 });
    await page.mouse.up();
    await expect(line(page, 'rust')).toContainText('marked point');
    await page.keyboard.press('Control+z');
    await expect(line(page, 'rust')).not.toContainText('marked point');
    await page.keyboard.press('Control+Shift+z');
    await expect(line(page, 'rust')).toContainText('marked point');
    await page.getByRole('button', { name: 'end marking' }).click();
  });

  await test.step('a click sees through the lines, and makes a condition of what is there', async () => {
    const canvas = page.getByRole('img', { name: /^3D picture of locker.glb/ });
    await canvas.click();
    const here = page.getByRole('region', { name: 'The place that was clicked' });
    await expect(here.getByText('Lines that reach it')).toBeVisible({ timeout: 20_000 });
    await expect(here.getByRole('button', { name: 'enamel' })).toBeVisible();
    await here.getByRole('button', { name: /^Where it is like here: island/ }).click();
    await expect(line(page, 'rust')).toContainText('on one island');
    await here.getByRole('button', { name: 'Close' }).click();
  });

  await test.step('all of it is there after a reload', async () => {
    await reloadSaved(page);
    await expect(line(page, 'rust')).toContainText('on one island');
    await expect(line(page, 'rust')).toContainText('75');
    await laid(page);
  });

  await test.step('its final is handed over', async () => {
    await page.getByRole('combobox', { name: 'Side of the sheet' }).selectOption('256');
    await page.getByRole('button', { name: 'Final', exact: true }).click();
    const link = page.getByRole('link', { name: 'Download (ZIP)' });
    await expect(link).toBeVisible({ timeout: 90_000 });
    const zip = await page.request.get(`${server.url}${await link.getAttribute('href')}`);
    const at = await unpacked(new Uint8Array(await zip.body()));
    expect(await trialLoad(at)).toMatchObject({ problems: [], materials: 1 });
    const { recipe } = JSON.parse(await readFile(join(at, 'manifest.json'), 'utf8'));
    const [{ recipe: stored }] = await recipesOf(page, server, id);
    expect(recipe.recipe.lines).toEqual(stored.lines);
  });
});

test('a recipe is written, tried and changed by keyboard alone, in both themes without a fault of access', async ({
  page,
  server,
}) => {
  test.setTimeout(180_000);
  const id = await opened(page, server, 'By keyboard', { 'locker.glb': kept(buildLocker) });
  await page.getByRole('button', { name: 'Begin with paint that is worn and dirty' }).focus();
  await page.keyboard.press('Enter');
  await page.getByLabel('Tuned at').selectOption('256');
  await expect(line(page, 'worn edges')).toBeVisible();
  const number = page.getByRole('button', { name: 'Line 3, worn edges' });
  await number.focus();
  await page.keyboard.press('Enter');
  await expect(number).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('Alt+ArrowUp');
  await expect(page.getByRole('button', { name: 'Line 2, worn edges' })).toBeVisible();
  await page.getByRole('button', { name: 'Line 2, worn edges' }).focus();
  await page.keyboard.press('o');
  await expect(line(page, 'worn edges')).toHaveAttribute('data-state', 'off');
  const least = line(page, 'worn edges').getByRole('spinbutton', { name: 'Least value' }).first();
  await least.focus();
  await page.keyboard.press('ArrowUp');
  await expect(least).toHaveAttribute('aria-valuenow', '0.26');
  await page.keyboard.press('Enter');
  await page.keyboard.type('0.4');
  await page.keyboard.press('Enter');
  await expect(least).toHaveAttribute('aria-valuenow', '0.4');
  await laid(page);
  await test.step('places are marked in the middle of the picture', async () => {
    await line(page, 'worn edges').getByRole('button', { name: '+ mark places' }).focus();
    await page.keyboard.press('Enter');
    const canvas = page.getByRole('img', { name: /^3D picture of locker.glb/ });
    await canvas.focus();
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('Enter');
    await expect(line(page, 'worn edges')).toContainText('one marked point');
    await page.keyboard.press('Escape');
    await expect(page.getByRole('button', { name: 'end marking' })).toBeHidden();
    await page.keyboard.press('Enter');
    const here = page.getByRole('region', { name: 'The place that was clicked' });
    await expect(here.getByText(/reach it/)).toBeVisible({ timeout: 20_000 });
  });
  for (const theme of ['light', 'dark']) {
    await page.evaluate((name) => document.documentElement.setAttribute('data-theme', name), theme);
    const { violations } = await new AxeBuilder({ page }).analyze();
    expect(violations.map(({ id: rule, nodes }) => `${rule}: ${nodes[0].html}`)).toEqual([]);
  }
  await page.getByRole('button', { name: 'Line 2, worn edges' }).focus();
  await page.keyboard.press('Delete');
  await expect(line(page, 'worn edges')).toBeHidden();
  await page.keyboard.press('Control+z');
  await expect(line(page, 'worn edges')).toBeVisible();
  const [{ recipe }] = await recipesOf(page, server, id);
  expect(recipe.lines.map(({ name }) => name)[1]).toBe('worn edges');
});

test('one gesture on one lamp post marks all of them; another mask under the same name shows at once', async ({
  page,
  server,
}) => {
  test.setTimeout(240_000);
  const posts = Object.entries(kept(buildLampPosts)).slice(0, 3);
  const grey = (v: number) =>
    sharp({ create: { width: 32, height: 32, channels: 3, background: { r: v, g: v, b: v } } })
      .png()
      .toBuffer();
  const id = await opened(page, server, 'Lamp posts', { ...Object.fromEntries(posts), 'dirt.png': await grey(0) });
  await page.getByRole('button', { name: 'Begin an empty recipe' }).click();
  await page.getByLabel('Tuned at').selectOption('256');
  await page.getByRole('combobox', { name: 'Write the first line' }).selectOption('values');
  const models = page.getByLabel(/^Models by name/);
  await models.fill('lamp-post-*');
  await models.press('Enter');
  await page.getByRole('button', { name: '3 of 3 models' }).click();
  const dialog = page.getByRole('dialog', { name: /^Models of/ });
  await dialog.getByLabel('Models by name').fill('lamp-post-01*, lamp-post-02*');
  await expect(dialog).toContainText('For 2 of 3 models');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: '3 of 3 models' })).toBeVisible();
  await laid(page);
  await line(page, 'colour').getByRole('button', { name: '+ mark places' }).click();
  const canvas = page.getByRole('img', { name: /^3D picture of/ });
  const box = await canvas.boundingBox();
  if (!box) throw new Error('the model is not in sight');
  // Along the middle, from the top: somewhere there is a post.
  await page.mouse.move(box.x + box.width / 2, box.y + box.height * 0.3);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height * 0.8, { steps: 12 });
  await page.mouse.up();
  await expect(line(page, 'colour')).toContainText('marked point');
  await page.getByRole('combobox', { name: 'Side of the sheet' }).selectOption('256');
  await page.getByRole('button', { name: 'Proof', exact: true }).click();
  await expect(page.getByText(/^Proof.*3 models/)).toBeVisible({ timeout: 90_000 });
  const { jobs } = await projectOf(page, server, id);
  const result = await (await page.request.get(`${server.url}/api/jobs/${jobs[0].id}/files/recipe.json`)).json();
  expect(result.models).toHaveLength(3);
  for (const model of result.models) expect(model.lines[0].texels, model.source).toBeGreaterThan(0);

  await page.getByRole('button', { name: 'end marking' }).click();
  await test.step('the mask', async () => {
    const by = page.getByRole('button', { name: 'Line 1, colour' });
    if ((await by.getAttribute('aria-pressed')) !== 'true') await by.click();
    await line(page, 'colour').getByRole('combobox', { name: '+ and …' }).selectOption('mask');
    const mask = line(page, 'colour').getByLabel('Mask picture');
    await mask.fill('dirt.png');
    await mask.press('Enter');
    await laid(page);
    await by.hover();
    await expect(page.getByRole('status')).toContainText('covers 0 %', { timeout: 30_000 });
    const file = join(temporary(), 'dirt.png');
    await writeFile(file, await grey(255));
    await goTo(page, 'Survey');
    await page.getByTestId('files').setInputFiles(file);
    await goTo(page, 'Bake');
    await laid(page);
    await expect(async () => {
      await page.getByRole('heading', { name: 'Bake', exact: true }).hover();
      await by.hover();
      await expect(page.getByRole('status')).toContainText(/covers (?!0 %)/, { timeout: 3000 });
    }).toPass({ timeout: 30_000 });
  });
});

test('a cell is laid, has a variant around it, and is handed over; a recipe is saved and opened again', async ({
  page,
  server,
}) => {
  test.setTimeout(180_000);
  const id = await opened(page, server, 'A cell', { 'locker.glb': kept(buildLocker) });
  await page.getByRole('combobox', { name: 'Model, or a cell' }).selectOption('cell');
  await page.getByRole('button', { name: 'Begin an empty recipe' }).click();
  await page.getByLabel('Tuned at').selectOption('256');
  await page.getByRole('combobox', { name: 'Write the first line' }).selectOption('brick');
  await laid(page);
  await expect(page.getByRole('combobox', { name: '+ only …' }).locator('option[value="convex"]')).toHaveCount(0);
  await page.getByRole('combobox', { name: '+ only …' }).selectOption('noise');
  await laid(page);
  await page.getByRole('button', { name: 'write a variant' }).click();
  await expect(page.getByLabel('Name of the recipe')).toHaveValue('Look, variant');
  await page.getByRole('combobox', { name: 'The cell to its left' }).selectOption('Look');
  await page.getByRole('radio', { name: 'In the light' }).click();
  await laid(page);
  await expect(page.getByRole('img', { name: /lying in the light/ })).toBeVisible();
  const recipes = await recipesOf(page, server, id);
  expect(recipes.map(({ recipe }) => recipe.name)).toEqual(['Look', 'Look, variant']);

  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save as file' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('Look, variant.recipe.json');
  await page.getByTestId('recipe-file').setInputFiles(await download.path());
  await expect(page.getByLabel('Name of the recipe')).toHaveValue('Look, variant 2');
  const broken = join(temporary(), 'broken.json');
  await writeFile(broken, '{"recipe": 1, "name": "x", "lines": [{"name": "a"}]}');
  await page.getByTestId('recipe-file').setInputFiles(broken);
  await expect(page.getByText(/^broken\.json: lines\.0\.what/)).toBeVisible();

  await page.getByRole('combobox', { name: 'Side of the cell' }).selectOption('128');
  await page.getByRole('button', { name: 'Final', exact: true }).click();
  await expect(page.getByText(/^Final.*one cell/)).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('link', { name: 'Download (ZIP)' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Use as sources' })).toBeHidden();
});

test('a picture that is dropped on the model is a decal there; it is dragged, turned and scaled', async ({
  page,
  server,
}) => {
  test.setTimeout(180_000);
  const id = await opened(page, server, 'A decal', { 'locker.glb': kept(buildLocker) });
  await page.getByRole('button', { name: 'Begin an empty recipe' }).click();
  await page.getByLabel('Tuned at').selectOption('256');
  await page.getByRole('combobox', { name: 'Write the first line' }).selectOption('enamel');
  await laid(page);
  const canvas = page.getByRole('img', { name: /^3D picture of locker.glb/ });
  const box = await canvas.boundingBox();
  if (!box) throw new Error('the model is not in sight');
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  const red = await sharp({ create: { width: 16, height: 8, channels: 3, background: '#ff0000' } })
    .png()
    .toBuffer();
  const dropped = await page.evaluateHandle(
    (bytes) => {
      const data = new DataTransfer();
      data.items.add(new File([Uint8Array.from(bytes)], 'シール.png', { type: 'image/png' }));
      return data;
    },
    [...red],
  );
  for (const type of ['dragover', 'drop'])
    await canvas.dispatchEvent(type, { dataTransfer: dropped, clientX: x, clientY: y, bubbles: true });
  const decal = line(page, 'シール');
  await expect(decal).toContainText('as a decal', { timeout: 20_000 });
  await laid(page);
  await page.getByRole('button', { name: 'Line 2, シール' }).hover();
  await expect(page.getByRole('status')).toContainText('シール covers', { timeout: 20_000 });
  const lay = async () => {
    await expect(page.locator('[data-unsaved="0"]')).toBeVisible();
    const { decisions } = await projectOf(page, server, id);
    return decisions.recipes[0].recipe.lines[1].what.lay;
  };
  const before = await lay();
  await page.getByRole('button', { name: 'place it on the model' }).click();
  const drag = async (dx: number, dy: number, key?: 'Shift' | 'Alt') => {
    await page.mouse.move(x, y);
    if (key) await page.keyboard.down(key);
    await page.mouse.down();
    await page.mouse.move(x + dx, y + dy, { steps: 4 });
    await page.mouse.up();
    if (key) await page.keyboard.up(key);
  };
  await drag(20, 30);
  const moved = await lay();
  expect(moved.at).not.toEqual(before.at);
  expect(moved.width).toBe(before.width);
  await drag(-30, 10, 'Shift');
  const scaled = await lay();
  expect(scaled.width / scaled.height).toBeCloseTo(before.width / before.height, 1);
  expect(scaled.width).not.toBe(before.width);
  await drag(30, 10, 'Alt');
  expect((await lay()).turn).not.toBe(0);
  await page.getByRole('heading', { name: 'Bake', exact: true }).click();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await lay()).turn).toBe(0);

  await test.step('the stretch of a height is set on the model: by a drag, then by a click', async () => {
    await page.getByRole('button', { name: 'Line 1, enamel' }).click();
    await line(page, 'enamel').getByRole('combobox', { name: '+ only …' }).selectOption('position');
    await laid(page);
    const asked = page.waitForResponse(
      (response) => response.url().endsWith('/live') && (response.request().postData() ?? '').includes('"measured"'),
    );
    await page.getByRole('button', { name: 'set its stretch on the model' }).click();
    await asked;
    const stretch = async () => {
      await expect(page.locator('[data-unsaved="0"]')).toBeVisible();
      const [{ recipe }] = await recipesOf(page, server, id);
      return recipe.lines[0].where as unknown as { from: number | null; to: number };
    };
    await drag(0, -60);
    const dragged = await stretch();
    expect(dragged.from).toBeGreaterThan(0.05);
    expect(dragged.to).toBeGreaterThan((dragged.from as number) + 0.02);
    // Higher up than both: the upper end follows.
    await page.mouse.click(x, y - 90);
    const clicked = await stretch();
    expect(clicked.from).toBe(dragged.from);
    expect(clicked.to).toBeGreaterThan(dragged.to);
    await page.keyboard.press('Control+z');
    await expect.poll(stretch).toMatchObject({ from: dragged.from, to: dragged.to });
  });
});
