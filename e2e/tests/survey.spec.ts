import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { fileFigures } from '@wembrel/core/survey/figures';
import { sign } from '@wembrel/demo/broken';
import { buildFurniture } from '@wembrel/demo/furniture';
import { buildBollards, buildKiosk, buildPlanters, buildWalls } from '@wembrel/demo/pieces';
import { buildSigns } from '@wembrel/demo/signs';
import { buildBracket } from '@wembrel/demo/simple-formats';
import { imageKey } from '@wembrel/runner/read/image-keys';
import { loadModel } from '@wembrel/runner/read/load';
import { build } from 'esbuild';
import { kept } from '../../packages/demo/test/kept.ts';
import { expect, goTo, newProject, projectOf, steadyPicture, test } from '../app.ts';
import { ROOT, type Server, startServer, temporary } from '../server.ts';

async function onDisk(files: Record<string, Uint8Array>): Promise<string[]> {
  const at = temporary();
  const out: string[] = [];
  for (const [name, bytes] of Object.entries(files)) {
    out.push(join(at, name));
    await writeFile(join(at, name), bytes);
  }
  return out;
}

async function withFiles(page: Page, server: Server, name: string, files: Record<string, Uint8Array>): Promise<string> {
  const id = await newProject(page, server, name);
  await page.getByTestId('files').setInputFiles(await onDisk(files));
  await expect(page.getByTestId('total-drawcalls')).toBeVisible({ timeout: 90_000 });
  return id;
}

const findings = (page: Page) => page.getByRole('complementary', { name: 'Findings' });
const view = async (page: Page, server: Server, id: string) => projectOf(page, server, id);

test('draw calls are what the 3D library issues', async ({ page, server }) => {
  const bundle = await build({
    stdin: {
      contents: `
        import { PerspectiveCamera, Scene, WebGLRenderer } from 'three';
        import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
        window.calls = async (base64) => {
          const gltf = await new GLTFLoader().parseAsync(Uint8Array.from(atob(base64), (c) => c.charCodeAt(0)).buffer, '');
          gltf.scene.traverse((o) => { o.frustumCulled = false; });
          const scene = new Scene();
          scene.add(gltf.scene);
          const renderer = new WebGLRenderer();
          renderer.setSize(32, 32, false);
          renderer.render(scene, new PerspectiveCamera());
          return [renderer.info.render.calls, renderer.info.render.triangles];
        };`,
      resolveDir: ROOT,
    },
    bundle: true,
    write: false,
    format: 'iife',
    logLevel: 'error',
  });
  await page.goto(server.url);
  await page.addScriptTag({ content: bundle.outputFiles[0].text });
  const pieces = {
    furniture: kept(buildFurniture, 0.25),
    bollards: kept(buildBollards, 12),
    planters: kept(buildPlanters),
    sign: sign().glb(),
  };
  for (const [name, glb] of Object.entries(pieces)) {
    const [path] = await onDisk({ [`${name}.glb`]: glb });
    const ours = fileFigures(await loadModel({ path, name }), new Map(), imageKey);
    const theirs = await page.evaluate(
      (b) => (window as unknown as { calls: (b: string) => Promise<number[]> }).calls(b),
      Buffer.from(glb).toString('base64'),
    );
    expect(theirs, name).toEqual([ours.drawCalls, ours.triangles]);
  }
});

test('models stand on the shelf as they are read, before all are', async ({ page, server }) => {
  const id = await newProject(page, server, 'Shelf');
  const names = Array.from({ length: 30 }, (_, i) => `bollards-${String(i).padStart(2, '0')}.glb`);
  const paths = await onDisk({
    ...Object.fromEntries(names.map((name) => [name, kept(buildBollards, 12)])),
    'a-broken.glb': sign().glb().slice(0, 400),
    'stop.glb': kept(buildFurniture, 0.25),
  });
  await page.getByTestId('files').setInputFiles(paths);
  const shelf = page.getByRole('region', { name: 'Models as they are read' });
  await expect(shelf.getByText(/ of 32/)).toBeVisible();
  await expect(shelf.locator('img').first()).toBeVisible();
  const { jobs } = await view(page, server, id);
  const job = `${server.url}/api/jobs/${jobs[0].id}/pause`;
  const pause = (on: boolean) => page.request.post(job, { headers: { origin: server.url }, data: { on } });
  if ((await pause(true)).ok()) {
    await expect(shelf.getByText('cannot be read')).toBeVisible();
    await expect(shelf.getByRole('listitem')).toHaveCount(32);
    // What was read before the page was there stands on it as well.
    await page.reload();
    await expect(shelf.locator('img').first()).toBeVisible();
    const drawn = await shelf
      .locator('img')
      .first()
      .evaluate((image: HTMLImageElement) => image.naturalWidth);
    expect(drawn).toBeGreaterThan(0);
    await pause(false);
  }
  await expect(page.getByTestId('total-drawcalls')).toBeVisible({ timeout: 60_000 });
  await expect(shelf).toBeHidden();
});

test('forty private copies of a palette become one by one button, are listed, handed over, and taken back', async ({
  page,
  server,
}) => {
  test.setTimeout(150_000);
  const id = await withFiles(page, server, 'Forty signs', kept(buildSigns));
  await expect(page.getByTestId('total-textures')).toHaveText('40');
  await findings(page)
    .getByRole('button', { name: /^Identical textures/ })
    .click();
  const copies = findings(page)
    .getByRole('list', { name: /^Copies of/ })
    .getByRole('listitem');
  await expect(copies).toHaveCount(40);
  await findings(page).getByRole('button', { name: 'Share one copy' }).first().click();
  await expect(findings(page).getByText('done').first()).toBeVisible();
  const memory = page.getByRole('row', { name: /^Texture memory/ });
  await expect(memory).toContainText('3.3 MiB');
  await expect(memory).toContainText('85.4 KiB');
  await goTo(page, 'Bake');
  await page.getByRole('button', { name: 'Bake the final' }).click();
  await goTo(page, 'Hand over');
  await expect(page.getByTestId('delivery')).toContainText('manifest.json', { timeout: 90_000 });
  await expect(page.getByTestId('delivery').getByText(/\.png$/)).toHaveCount(1);
  const project = await view(page, server, id);
  const result = await (
    await page.request.get(`${server.url}/api/jobs/${project.jobs[0].id}/files/result.json`)
  ).json();
  const uses = Object.values(result.uses as Record<string, string[]>);
  expect(uses).toHaveLength(40);
  for (const u of uses) expect(u).toEqual(uses[0]);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(memory).not.toContainText('85.4 KiB');
  expect((await view(page, server, id)).decisions).toMatchObject({
    keepAll: false,
    repairs: { shareDuplicates: false },
  });
});

test('one selection: table, 3D, chart and finding light the same slots; hiding and showing only', async ({
  page,
  server,
}) => {
  await withFiles(page, server, 'Selection', {
    'planters.glb': kept(buildPlanters),
    'walls.glb': kept(buildWalls),
    'furniture.glb': kept(buildFurniture, 0.25),
  });
  const chosen = page.locator('[role=row][aria-selected=true]');
  // From a finding to the table.
  await findings(page)
    .getByRole('button', { name: /^Materials that differ by numbers only/ })
    .click();
  await page.getByRole('radio', { name: /^Slots/ }).click();
  await expect(chosen.first()).toBeVisible();
  await page.getByLabel('Only rows with').fill('Planter');
  await expect(chosen).toHaveCount(4);
  await page.getByLabel('Only rows with').fill('');
  // From 3D to the table: the middle of the walls is their one slot.
  await page.getByRole('button', { name: /walls\.glb/ }).click();
  const picture = page.getByRole('img', { name: /^3D picture of walls/ });
  await expect(page.locator('[data-loads]').first()).not.toHaveAttribute('data-loads', '0', { timeout: 30_000 });
  await steadyPicture(picture);
  await picture.click();
  await expect(chosen).toHaveCount(1);
  await expect(chosen).toContainText('TiledBrick');
  // From a chart.
  await page.getByRole('radio', { name: 'density' }).click();
  await expect(page.getByRole('img', { name: 'Surface by texel density' }).locator('svg')).toBeVisible();
  await page.getByRole('radio', { name: 'memory' }).click();
  await page
    .getByRole('img', { name: /^Texture memory of/ })
    .locator('svg')
    .click({ position: { x: 120, y: 120 } });
  await expect(chosen.first()).toBeVisible();
  await page.getByRole('radio', { name: 'draw calls' }).click();
  await expect(page.getByRole('img', { name: 'Draw calls by model' }).locator('svg')).toBeVisible();
  // Hide and show only.
  await page.getByRole('radio', { name: 'shelf' }).click();
  await page.getByRole('button', { name: /walls\.glb/ }).click();
  await page.getByRole('button', { name: 'Show only' }).click();
  await expect(page.getByRole('button', { name: /planters\.glb/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Show all' }).click();
  await expect(page.getByRole('button', { name: /planters\.glb/ })).toBeVisible();
  for (const tint of ['slots', 'draw calls', 'triangles', 'density', 'shared textures', 'findings', 'UV checker'])
    await page.getByRole('combobox', { name: /^Colours/ }).selectOption({ label: tint });
});

test('every cost is the sum of its rows; groups; the rows as CSV; the survey as one page', async ({ page, server }) => {
  const id = await withFiles(page, server, 'Costs', {
    'planters.glb': kept(buildPlanters),
    'furniture.glb': kept(buildFurniture, 0.25),
  });
  const { totals } = (await view(page, server, id)).survey;
  await page.getByRole('radio', { name: 'Costs' }).click();
  const last = page.getByRole('grid').getByRole('row').last().getByRole('gridcell').last();
  const spaced = (n: number) => String(n).replace(/\B(?=(\d{3})+$)/g, '\u2009');
  await expect(last).toHaveText(spaced(totals.drawCalls));
  await page.getByLabel('Cost', { exact: true }).selectOption('gpuVertices');
  await expect(last).toHaveText(spaced(totals.gpuVertices));
  await page.getByLabel('Cost', { exact: true }).selectOption('triangles');
  await expect(last).toHaveText(spaced(totals.triangles));
  await page.getByRole('radio', { name: /^Textures/ }).click();
  await page.getByLabel('Group by').selectOption('use');
  await page.getByLabel('Only rows with').fill('normal');
  await expect(page.getByRole('row', { name: /^normals/ })).toBeVisible();
  await page.getByLabel('Only rows with').fill('');
  await page.getByRole('radio', { name: /^Models/ }).click();
  const [csv] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'CSV' }).click()]);
  const text = await readFile(await csv.path(), 'utf8');
  expect(text.split('\r\n')[0]).toMatch(/^Model,Draw calls,/);
  expect(text).toContain('furniture.glb');
  const [report] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Report' }).click(),
  ]);
  const html = await readFile(await report.path(), 'utf8');
  expect(html).toContain('data:image/png;base64,');
  expect(html).not.toMatch(/(src|href)="(?!data:)/);
  await page.setContent(html);
  await expect(page.getByRole('heading', { name: 'Costs: survey' })).toBeVisible();
});

test('how files are read: patterns are previewed while they are typed, units change the size', async ({
  page,
  server,
}) => {
  const id = await withFiles(page, server, 'Reading', { ...kept(buildKiosk), 'bracket.stl': kept(buildBracket) });
  const span = async () =>
    ((await view(page, server, id)).survey?.models as { path: string; span: number }[] | undefined)?.find(
      (model) => model.path === 'bracket.stl',
    )?.span;
  expect(await span()).toBeCloseTo(0.08, 5);
  await page.getByRole('button', { name: 'Import settings' }).click();
  const matches = page.getByTestId('texture-matches');
  await expect(matches).toContainText('kiosk_Panels_Normal.png normal of kiosk: Panels');
  await page.getByLabel('Patterns, one a line').fill('{model}-{map}');
  await expect(matches).toContainText('kiosk_Panels_Normal.png no slot or model is called');
  await page.getByLabel('Patterns, one a line').fill('{slot}_{map}\n{model}_{slot}_{map}');
  await page.getByLabel('Unit of bracket.stl').selectOption({ label: 'centimetres' });
  await page.getByRole('button', { name: 'Apply and re-read' }).click();
  await expect.poll(span, { timeout: 60_000 }).toBeCloseTo(0.8, 4);
  await page.getByRole('radio', { name: /^Files/ }).click();
  await expect(page.getByRole('row', { name: /kiosk sketch\.png/ })).toContainText(
    'not used: its name ends like no map',
  );
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(span, { timeout: 60_000 }).toBeCloseTo(0.08, 5);
});

test('a budget marks what is over, everywhere the bill is; it can be undone', async ({ page, server }) => {
  await withFiles(page, server, 'Budget', { 'furniture.glb': kept(buildFurniture, 0.25) });
  await page.getByRole('button', { name: 'none yet' }).click();
  const dialog = page.getByRole('dialog', { name: 'Budget' });
  await dialog.getByLabel('Device').selectOption({ label: 'retro' });
  await dialog.getByLabel('Draw calls').fill('10');
  await dialog.getByRole('button', { name: 'Apply budget' }).click();
  const calls = page.getByRole('row', { name: /^Draw calls/ });
  await expect(calls).toContainText('of 10');
  await expect(calls.getByText('16').first()).toHaveCSS('font-weight', '600');
  await goTo(page, 'Plan');
  await expect(calls).toContainText('of 10');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(calls).not.toContainText('of 10');
});

test('a source that comes again under its name replaces it: decisions stay, what came and went is listed', async ({
  page,
  server,
}) => {
  const id = await withFiles(page, server, 'Again', { 'halt.glb': sign({ names: ['Front', 'Back'] }).glb() });
  await goTo(page, 'Plan');
  await page.getByRole('option', { name: /Back/ }).click();
  await page.keyboard.press('0');
  await expect
    .poll(async () => (await view(page, server, id)).decisions.routes)
    .toEqual([{ slot: 'Back', to: 'apart' }]);
  const before = (await view(page, server, id)).stamp;
  await goTo(page, 'Survey');
  await page.getByTestId('files').setInputFiles(await onDisk({ 'halt.glb': sign({ names: ['Front', 'Edge'] }).glb() }));
  await expect(page.getByTestId('changes')).toContainText('halt.glb: slot Edge', { timeout: 60_000 });
  await expect(page.getByTestId('changes')).toContainText('halt.glb: slot Back');
  await expect(page.getByTestId('changes')).toContainText('Routes without a slot: Back');
  const now = await view(page, server, id);
  expect(now.decisions.routes).toEqual([{ slot: 'Back', to: 'apart' }]);
  expect(now.stamp).not.toBe(before);
  expect(now.sources).toHaveLength(1);
});

test('a folder that was named at the start is followed; the browser never sees its path', async ({ page }) => {
  const folder = join(temporary(), 'props');
  await mkdir(folder);
  await writeFile(join(folder, 'sign.glb'), sign().glb());
  const server = await startServer(temporary(), '--watch', folder);
  try {
    const id = await newProject(page, server, 'Followed');
    await page.getByLabel('Follow').selectOption('props');
    await expect(page.getByTestId('total-drawcalls')).toHaveText('1', { timeout: 60_000 });
    await writeFile(join(folder, 'second.glb'), sign({ names: ['A', 'B'] }).glb());
    await expect(page.getByTestId('total-drawcalls')).toHaveText('3', { timeout: 60_000 });
    await rm(join(folder, 'sign.glb'));
    await expect(page.getByTestId('total-drawcalls')).toHaveText('2', { timeout: 60_000 });
    const project = await view(page, server, id);
    expect(JSON.stringify(project)).not.toContain(folder);
    expect(project.sources.map((source: { path: string }) => source.path)).toEqual(['props/second.glb']);
    const refused = await page.request.put(`${server.url}/api/projects/${id}/watch`, { data: { name: '/etc' } });
    expect(refused.status()).toBe(404);
  } finally {
    await page.goto('about:blank');
    await server.stop();
  }
});
