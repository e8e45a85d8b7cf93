import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { FileChooser, Page } from '@playwright/test';
import { sign } from '@wembrel/demo/broken';
import {
  accessFaults,
  expect,
  goTo,
  mergeAll,
  motionOver,
  newProject,
  projectOf,
  reloadSaved,
  steadyPicture,
  test,
} from '../app.ts';
import { type Server, temporary } from '../server.ts';

const STAGES = ['Survey', 'Plan', 'UV layout', 'Bake', 'Compare', 'Hand over'];

/** A project with two small signs, read. */
async function signs(page: Page, server: Server, name: string): Promise<string> {
  const id = await newProject(page, server, name);
  const at = temporary();
  await writeFile(join(at, 'halt-sign.glb'), sign().glb());
  await writeFile(join(at, 'exit-sign.glb'), sign({ names: ['ExitEnamel'] }).glb());
  await page.getByTestId('files').setInputFiles([join(at, 'halt-sign.glb'), join(at, 'exit-sign.glb')]);
  await expect(page.getByTestId('total-drawcalls')).toHaveText('2', { timeout: 60_000 });
  return id;
}

const undo = (page: Page) => page.getByRole('button', { name: 'Undo', exact: true });
const redo = (page: Page) => page.getByRole('button', { name: 'Redo', exact: true });

test('projects are created, renamed, duplicated, deleted, and the deletion is undone', async ({ page, server }) => {
  await signs(page, server, 'Signs of the halt');
  await page.getByRole('link', { name: 'Wembrel' }).click();
  await page.getByRole('button', { name: 'Rename Signs of the halt' }).click();
  await page.keyboard.type('Old signs');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('link', { name: 'Old signs' })).toBeVisible();
  await page.getByRole('button', { name: 'Duplicate Old signs' }).click();
  await expect(page.getByRole('link', { name: 'Old signs (copy)' })).toBeVisible();
  await page.getByRole('button', { name: 'Delete Old signs', exact: true }).click();
  await expect(page.getByRole('link', { name: 'Old signs', exact: true })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('link', { name: 'Old signs', exact: true }).click();
  await expect(page.getByTestId('total-drawcalls')).toHaveText('2');
});

test('every kind of decision can be undone and done again, also after a reload', async ({ page, server }) => {
  const id = await signs(page, server, 'Undo');
  const decisions = async () => (await projectOf(page, server, id)).decisions as Record<string, unknown>;
  const seen = [await decisions()];
  await goTo(page, 'Plan');
  const acts: (() => Promise<unknown>)[] = [
    async () => {
      await page.getByRole('option', { name: /ExitEnamel/ }).click();
      await page.keyboard.press('0');
    },
    () => page.getByRole('button', { name: 'Add a sheet' }).click(),
    () => page.getByLabel('Width of sheet_2').selectOption('256'),
    async () => {
      await page.getByLabel('Name of sheet 2').fill('exits');
      await page.getByLabel('Name of sheet 2').press('Enter');
    },
    async () => {
      await page.getByRole('option', { name: /ExitEnamel/ }).click();
      await page.keyboard.press('2');
    },
    async () => {
      await page.getByLabel('Margin of exits, px').fill('4');
      await page.getByLabel('Margin of exits, px').press('Enter');
    },
    () => page.getByLabel('Rotation').selectOption('none'),
    () => page.getByLabel('Island size').selectOption('even'),
    () => page.getByLabel('Samples').selectOption('9'),
    () => page.getByLabel('Bake tiling up to').selectOption('8'),
    () => page.getByLabel('Join across nodes').check(),
    () => page.getByLabel('Merge without gain').uncheck(),
    () => page.getByLabel('Textures inside each GLB').check(),
    () => page.getByRole('button', { name: 'Remove the sheet exits' }).click(),
  ];
  for (const act of acts) {
    await act();
    await expect.poll(async () => JSON.stringify(await decisions())).not.toBe(JSON.stringify(seen[seen.length - 1]));
    seen.push(await decisions());
  }
  await reloadSaved(page);
  for (let i = seen.length - 2; i >= 0; i--) {
    await undo(page).click();
    await expect.poll(decisions).toEqual(seen[i]);
  }
  // The step before was adding the files.
  await undo(page).click();
  await expect(page.getByText('No slots yet')).toBeVisible();
  await redo(page).click();
  for (let i = 1; i < seen.length; i++) {
    await redo(page).click();
    await expect.poll(decisions).toEqual(seen[i]);
  }
  await expect(redo(page)).toHaveAttribute('aria-disabled', 'true');
});

test('a stale tab is told, and nothing is overwritten', async ({ page, context, server, quiet }) => {
  quiet.push('status of 409');
  const id = await signs(page, server, 'Tabs');
  await goTo(page, 'Plan');
  const other = await context.newPage();
  await other.goto(`${server.url}/p/${id}/plan`);
  await expect(other.getByLabel('Rotation')).toBeVisible();
  // The second tab hears of nothing while its stream is cut.
  await other.route('**/events', (route) => route.abort());
  await other.route(`**/api/projects/${id}`, async (route) =>
    route.request().method() === 'GET' ? route.abort() : route.continue(),
  );
  await page.getByLabel('Rotation').selectOption('none');
  await expect(undo(page)).toHaveAttribute('aria-disabled', 'false');
  await other.getByLabel('Samples').selectOption('16');
  await expect(other.getByText(/changed elsewhere/).first()).toBeVisible();
  const project = await projectOf(page, server, id);
  expect(project.decisions).toMatchObject({ rotate: 'none', samples: 4 });
  await other.close();
});

test('leaving with a change that is not stored yet is asked about; once it is stored, nothing is', async ({
  page,
  server,
}) => {
  const id = await signs(page, server, 'Leaving');
  await goTo(page, 'Plan');
  let held = true;
  await page.route('**/decisions', async (route) => {
    while (held) await new Promise((done) => setTimeout(done, 20));
    await route.continue();
  });
  const asked: string[] = [];
  page.on('dialog', async (dialog) => {
    asked.push(dialog.type());
    await dialog.dismiss();
  });
  await page.getByLabel('Rotation').selectOption('none');
  await page.getByLabel('Samples').selectOption('16');
  await expect(page.locator('[data-unsaved="2"]')).toBeVisible();
  await page.close({ runBeforeUnload: true });
  await expect.poll(() => asked).toEqual(['beforeunload']);
  await expect(page.getByLabel('Samples')).toHaveValue('16');
  held = false;
  await reloadSaved(page);
  await expect(page.getByLabel('Samples')).toHaveValue('16');
  expect(asked).toHaveLength(1);
  const project = await projectOf(page, server, id);
  expect(project.decisions).toMatchObject({ rotate: 'none', samples: 16 });
});

test('by keyboard alone: from the list of projects to the ZIP', async ({ page, server }) => {
  const at = temporary();
  await writeFile(join(at, 'halt-sign.glb'), sign().glb());
  await writeFile(join(at, 'exit-sign.glb'), sign({ names: ['ExitEnamel'] }).glb());
  /** Tabs on until the control has the focus. */
  const reach = async (name: RegExp) => {
    for (let i = 0; i < 80; i++) {
      await page.keyboard.press('Tab');
      const here = await page.evaluate(() => {
        const el = document.activeElement as HTMLInputElement | null;
        return `${el?.labels?.[0]?.textContent ?? ''} ${el?.getAttribute('aria-label') ?? ''} ${el?.textContent ?? ''}`;
      });
      if (name.test(here)) return;
    }
    throw new Error(`${name} cannot be reached by Tab`);
  };
  await page.goto(server.url);
  await expect(page.getByLabel('New project')).toBeVisible();
  await reach(/New project/);
  await page.keyboard.type('Keys');
  await page.keyboard.press('Enter');
  await page.waitForURL(/survey/);
  const id = new URL(page.url()).pathname.split('/')[2];
  await mergeAll(page, server, id);
  await expect(page.getByRole('button', { name: 'Add files' })).toBeVisible();
  await reach(/Add files/);
  // Where the machine is slow the browser may open its window before it is listened to; then the key is pressed once more.
  let chooser: FileChooser | null = null;
  for (let i = 0; i < 4 && !chooser; i++) {
    const opened = page.waitForEvent('filechooser', { timeout: 5_000 }).catch(() => null);
    await page.keyboard.press('Enter');
    chooser = await opened;
  }
  if (!chooser) throw new Error('no window to choose files opens');
  await chooser.setFiles([join(at, 'halt-sign.glb'), join(at, 'exit-sign.glb')]);
  await expect(page.getByTestId('total-drawcalls')).toHaveText('2', { timeout: 60_000 });
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Help' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Alt+2');
  await expect(page.getByRole('heading', { level: 1, name: 'Plan' })).toBeVisible();
  await page.getByRole('listbox').getByRole('option').first().focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('0');
  await expect(page.getByText('1 of 2 slots go onto one sheet')).toBeVisible();
  await page.keyboard.press('Backspace');
  await expect(page.getByText('2 of 2 slots go onto one sheet')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByText('1 of 2 slots go onto one sheet')).toBeVisible();
  await page.keyboard.press('Control+Shift+z');
  await expect(page.getByText('2 of 2 slots go onto one sheet')).toBeVisible();
  await page.keyboard.press('Alt+4');
  await page.getByRole('button', { name: 'Bake a proof' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText('Proof, 512 px')).toBeVisible({ timeout: 60_000 });
  await page.keyboard.press('Alt+5');
  await expect(page.locator('[data-ready=true] canvas')).toBeVisible({ timeout: 60_000 });
  await page.locator('canvas').focus();
  for (const mode of ['wipe', 'blink', 'difference', 'side by side']) {
    await page.keyboard.press('v');
    await expect(page.getByRole('radio', { name: mode })).toBeChecked();
  }
  await page.keyboard.press('Alt+4');
  await expect(page.getByRole('button', { name: 'Bake the final' })).toBeVisible();
  await reach(/Bake the final/);
  await page.keyboard.press('Enter');
  await expect(page.getByText('Final, 2048 px')).toBeVisible({ timeout: 120_000 });
  await page.keyboard.press('Alt+6');
  await expect(page.getByRole('link', { name: 'Download as ZIP' })).toBeVisible();
  await reach(/Download as ZIP/);
  const [download] = await Promise.all([page.waitForEvent('download'), page.keyboard.press('Enter')]);
  expect(download.suggestedFilename()).toBe('Keys.zip');
});

test('the demo is opened from the list, and is the same project the next time', async ({ page, server }) => {
  await page.goto(server.url);
  await page.getByRole('button', { name: 'Open Tram stop furniture' }).click();
  await page.waitForURL(/survey/, { timeout: 60_000 });
  const first = page.url();
  await expect(page.getByRole('complementary', { name: 'The bill' })).toContainText('Quillmoor Halt');
  await page.goto(server.url);
  await page.getByRole('button', { name: 'Open Tram stop furniture' }).click();
  await page.waitForURL(first);
});

test('files can be dropped on any stage', async ({ page, server }) => {
  await newProject(page, server, 'Dropped');
  await goTo(page, 'Bake');
  const bytes = Buffer.from(sign().glb()).toString('base64');
  await page.evaluate(async (b64) => {
    const data = Uint8Array.from(atob(b64), (c) => c.charCodeAt(0));
    const transfer = new DataTransfer();
    transfer.items.add(new File([data], 'dropped.glb'));
    const target = document.querySelector('main') as HTMLElement;
    for (const type of ['dragover', 'drop'])
      target.dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer: transfer }));
  }, bytes);
  await expect(page.getByRole('row').filter({ hasText: 'dropped.glb' })).toBeVisible({ timeout: 60_000 });
});

test('the plan by mouse: a slot dragged onto a sheet, the bill follows at once', async ({ page, server }) => {
  await signs(page, server, 'Mouse');
  await goTo(page, 'Plan');
  const bill = page.getByRole('complementary', { name: 'The bill' });
  await page.getByRole('button', { name: 'Add a sheet' }).click();
  // What is kept apart stands below the sheets: it moves when the new one appears.
  await expect(page.locator('[data-flow-target]')).toHaveCount(3);
  const row = page.getByRole('option', { name: /SignEnamel/ });
  // Hovering waits until the row stands still.
  await row.hover({ position: { x: 80, y: 10 } });
  await page.mouse.down();
  const apart = page.getByRole('region', { name: 'Kept apart' });
  // The target moves while a packing arrives: the pointer follows it, as a hand would.
  await expect(async () => {
    const to = await apart.boundingBox();
    if (!to) throw new Error('nowhere to drag to');
    await page.mouse.move(to.x + 60, to.y + 30, { steps: 8 });
    await expect(apart).toHaveAttribute('data-over', 'true', { timeout: 500 });
  }).toPass();
  await page.mouse.up();
  await expect(apart).toContainText('SignEnamel kept apart by name');
  await expect(bill).toContainText('predicted');
  await undo(page).click();
  await expect(page.getByText('Every slot is merged.')).toBeVisible();
  // The same by the slot's menu.
  await row.click({ button: 'right' });
  await page.getByRole('menuitem', { name: /^Keep apart/ }).click();
  await expect(apart).toContainText('SignEnamel kept apart by name');
});

test('UV layout: what the browser packs is what the server bakes', async ({ page, server }) => {
  const id = await signs(page, server, 'Packed');
  await goTo(page, 'UV layout');
  await expect(page.getByText(/bays? packed in/)).toBeVisible({ timeout: 60_000 });
  await page.getByLabel('Margin', { exact: true }).fill('8');
  await page.getByLabel('Margin', { exact: true }).press('Enter');
  await page.getByLabel('Width', { exact: true }).selectOption('64');
  await expect(page.getByText(/bays? packed in/)).toBeVisible({ timeout: 60_000 });
  const bay = page.locator('[data-plot]').first();
  await bay.click();
  const place = async () => [await page.getByLabel('Left').inputValue(), await page.getByLabel('Top').inputValue()];
  const packed = await place();
  // Held, moved with an arrow key by a texel, then typed elsewhere: what a hand does is what is baked.
  await page.getByRole('button', { name: 'Lock', exact: true }).click();
  await expect(page.getByRole('button', { name: 'held (1)' })).toBeVisible();
  expect(await place()).toEqual(packed);
  await page.getByRole('group', { name: /^Sheet/ }).press('ArrowRight');
  await expect(page.getByLabel('Left')).toHaveValue(String(Number(packed[0]) + 1));
  await undo(page).click();
  await expect(page.getByLabel('Left')).toHaveValue(packed[0]);
  await page.getByLabel('Left').fill('5.5');
  await page.getByLabel('Left').press('Enter');
  await expect(page.getByText(/bays? packed in/)).toBeVisible({ timeout: 60_000 });
  await expect(page.getByLabel('Left')).toHaveValue('5.5');
  // What the numbers say is where its border lies.
  const border = ((await bay.getAttribute('d')) ?? '').match(/-?[\d.]+/g)?.map(Number) ?? [];
  expect(Math.min(...border.filter((_, i) => i % 2 === 0))).toBeCloseTo(5.5, 1);
  expect(Math.min(...border.filter((_, i) => i % 2 === 1))).toBeCloseTo(Number((await place())[1]), 1);
  await goTo(page, 'Bake');
  await page.getByRole('button', { name: 'Bake a proof' }).click();
  await expect(page.getByText('Proof, 16 px')).toBeVisible({ timeout: 60_000 });
  const project = await projectOf(page, server, id);
  const manifest = await (
    await page.request.get(`${server.url}/api/jobs/${project.jobs[0].id}/files/delivery/manifest.json`)
  ).json();
  const [{ x, y }] = Object.values<{ x: number; y: number }>(project.decisions.sheets[0].pinned);
  const box = ([left, top]: number[]) => `${left.toFixed(2)}, ${top.toFixed(2)}`;
  expect(manifest.sheets[0].bays.map((bay: { px: number[] }) => box(bay.px))).toContain(box([x, y]));
});

test('one of several sheets is baked alone, as a proof and as a final', async ({ page, server }) => {
  await signs(page, server, 'Two sheets');
  await goTo(page, 'Plan');
  await page.getByLabel('Width of sheet').selectOption('256');
  await page.getByRole('button', { name: 'Add a sheet' }).click();
  await page.getByRole('option', { name: /ExitEnamel/ }).click();
  await page.keyboard.press('2');
  await page.getByRole('option', { name: /SignEnamel/ }).click();
  await page.keyboard.press('1');
  await goTo(page, 'Bake');
  await expect(page.getByRole('radio', { name: 'sheet_2, not baked' })).toBeVisible();
  await page.getByRole('radio', { name: 'sheet_2, not baked' }).click();
  await page.getByRole('button', { name: 'Proof of sheet_2' }).click();
  await expect(page.getByRole('radio', { name: 'sheet_2, proof' })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText('Proof, 64 px')).toBeVisible();
  await expect(page.getByRole('radio', { name: 'sheet, not baked' })).toBeVisible();
  await page.getByRole('button', { name: 'Final of sheet_2' }).click();
  await expect(page.getByRole('radio', { name: 'sheet_2, final' })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText('Final, 256 px')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('radio', { name: 'sheet_2, out of date' })).toBeVisible();
});

test('the 3D picture survives the loss of its graphics context', async ({ page, server }) => {
  await signs(page, server, 'Lost');
  const canvas = page.locator('canvas');
  await expect(page.locator('[data-loads="1"]')).toBeVisible({ timeout: 30_000 });
  const before = await steadyPicture(canvas);
  const lost = await page.evaluate(async () => {
    const gl = (document.querySelector('canvas') as HTMLCanvasElement).getContext('webgl2');
    const lose = gl?.getExtension('WEBGL_lose_context');
    lose?.loseContext();
    await new Promise((r) => setTimeout(r, 300));
    const gone = gl?.isContextLost();
    lose?.restoreContext();
    return gone;
  });
  expect(lost).toBe(true);
  await expect
    .poll(async () => Buffer.compare(await canvas.screenshot(), before), { timeout: 20_000, intervals: [1000] })
    .toBe(0);
});

test('ten thousand rows: few in the page, sorted and filtered at once', async ({ page, server }) => {
  await signs(page, server, 'Many');
  await page.route('**/files/survey.json', async (route) => {
    const answer = await route.fetch();
    const survey = await answer.json();
    const [row] = survey.files;
    survey.files = Array.from({ length: 10_000 }, (_, i) => ({
      ...row,
      path: `pack/model-${i}.glb`,
      drawCalls: i,
    }));
    await route.fulfill({ json: survey });
  });
  await page.reload();
  const rows = page.getByRole('grid', { name: 'Models' }).getByRole('row');
  await expect(rows.nth(1)).toContainText('model-9999.glb');
  expect(await rows.count()).toBeLessThanOrEqual(60);
  await page
    .getByRole('columnheader', { name: /^Draw calls/ })
    .getByRole('button')
    .click();
  await expect(rows.nth(1)).toContainText('model-0.glb');
  await page.getByLabel('Only rows with').fill('model-777');
  await expect(rows.nth(1)).toContainText('model-777.glb');
  await expect(page.getByRole('grid', { name: 'Models' })).toHaveAttribute('aria-rowcount', '12');
  await page.unrouteAll({ behavior: 'ignoreErrors' });
});

/** Faces of models, with a group and a change open at the first call. */
async function openFaces(page: Page) {
  await page.getByRole('radio', { name: 'Faces of models' }).click();
  await expect(page.getByText(/^\d+ faces/).first()).toBeVisible();
  if (await page.getByRole('button', { name: /^1\. / }).isVisible()) return;
  await page.getByRole('button', { name: /^Select the .+ faces? in no group/ }).click();
  await page.getByRole('button', { name: /^New from/ }).click();
  await page.getByLabel('Kind of change').selectOption('strip');
  await page.getByRole('button', { name: /^Add for/ }).click();
  await page.getByRole('button', { name: /^1\. / }).click();
}

test('no view has a serious accessibility fault, in either theme; nothing scrolls the page', async ({
  page,
  server,
}) => {
  await signs(page, server, 'Access');
  await goTo(page, 'Bake');
  await page.getByRole('button', { name: 'Bake the final' }).click();
  await expect(page.getByText('Final, 2048 px')).toBeVisible({ timeout: 120_000 });
  for (const theme of ['light', 'dark']) {
    for (const stage of [...STAGES, 'faces']) {
      await goTo(page, stage === 'faces' ? 'UV layout' : stage);
      if (stage === 'faces') await openFaces(page);
      await motionOver(page);
      expect(await accessFaults(page), `${stage}, ${theme}`).toEqual([]);
      const [scrolls, wide] = await page.evaluate(() => [
        document.documentElement.scrollHeight > window.innerHeight,
        document.documentElement.scrollWidth > window.innerWidth,
      ]);
      expect([scrolls, wide], stage).toEqual([false, false]);
    }
    await page.getByRole('radio', { name: 'Bays on sheets' }).click();
    await page.getByRole('switch', { name: 'Dark theme' }).click();
  }
  await page.reload();
  expect(await page.evaluate(() => document.documentElement.dataset.theme)).toBe('light');
});
