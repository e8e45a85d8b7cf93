import { mkdir, readdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { AWKWARD } from '@wembrel/demo/awkward/awkward';
import { brokenFiles, sign } from '@wembrel/demo/broken';
import { buildFurniture } from '@wembrel/demo/furniture';
import { kept } from '../../packages/demo/test/kept.ts';
import { expect, goTo, newProject, projectOf, test } from '../app.ts';
import { startServer, temporary } from '../server.ts';

async function onDisk(files: Record<string, Uint8Array>): Promise<string[]> {
  const at = temporary();
  const paths: string[] = [];
  for (const [name, bytes] of Object.entries(files)) {
    await mkdir(at, { recursive: true });
    await writeFile(join(at, name), bytes);
    paths.push(join(at, name));
  }
  return paths;
}

test('broken files get a sentence each and the sound one beside them its figures', async ({ page, server }) => {
  await newProject(page, server, 'Broken');
  const files = { 'sound.glb': sign().glb(), ...brokenFiles() };
  await page.getByTestId('files').setInputFiles(await onDisk(files));
  await expect(page.getByTestId('total-drawcalls')).toHaveText('1', { timeout: 60_000 });
  const table = page.getByRole('grid', { name: 'Models' });
  for (const [name, says] of [
    ['truncated.glb', /cut short/],
    ['index-out-of-range.glb', /index 5 of "sign", primitive 0 is 4711, but there are 4 vertices/],
    ['nan-positions.glb', /holds NaN at vertex 1/],
    ['circle-of-nodes.glb', /form a circle/],
    ['wrong-version.glb', /version 1\.0 is not supported/],
    ['missing-texture.gltf', /image "sign_colour\.png" is missing/],
    ['picture-cut-short.glb', /the file may be cut short/],
  ] as const)
    await expect(table.getByRole('row').filter({ hasText: name })).toContainText(says);
});

test('a slot whose name has line breaks is drawn like any other', async ({ page, server }) => {
  await newProject(page, server, 'Names');
  const name = 'name-of-control-characters.glb';
  const build = AWKWARD.find((model) => model.name === name)?.build as () => Uint8Array;
  await page.getByTestId('files').setInputFiles(await onDisk({ [name]: build() }));
  await expect(page.getByTestId('total-drawcalls')).toHaveText('1', { timeout: 60_000 });
  // Shaders that do not compile are errors of the page, which fail the test.
  await expect(page.locator('[data-loads="1"]')).toBeVisible({ timeout: 30_000 });
  await page.locator('canvas').screenshot();
});

test('what is no model is refused by name; the project stays as it was', async ({ page, server, quiet }) => {
  quiet.push('status of 415');
  const id = await newProject(page, server, 'Refused');
  await page.getByTestId('files').setInputFiles(await onDisk({ 'notes.txt': Buffer.from('hello') }));
  await expect(page.getByText('notes.txt: this kind of file is not read').first()).toBeVisible();
  const project = await projectOf(page, server, id);
  expect(project.sources).toEqual([]);
});

test('cancelled: the job says so, nothing is left of it, and the earlier result stays', async ({ page, server }) => {
  const id = await newProject(page, server, 'Cancelled');
  await page.getByTestId('files').setInputFiles(await onDisk({ 'halt.glb': kept(buildFurniture, 0.25) }));
  await expect(page.getByTestId('total-drawcalls')).toBeVisible({ timeout: 60_000 });
  await goTo(page, 'Bake');
  await page.getByRole('button', { name: 'Bake the final' }).click();
  await page.getByRole('main').getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText('Idle')).toBeVisible();
  const project = await projectOf(page, server, id);
  expect(project.jobs[0]).toMatchObject({ kind: 'final', state: 'cancelled' });
  expect(await readdir(join(server.data, 'jobs'))).not.toContain(project.jobs[0].id);
  await expect(page.getByRole('button', { name: 'Bake the final' })).toBeEnabled();
});

test('killed in the middle: nothing is lost, the job is marked and can be run again', async ({ page }) => {
  const data = temporary();
  let server = await startServer(data);
  const id = await newProject(page, server, 'Killed');
  await page.getByTestId('files').setInputFiles(await onDisk({ 'halt.glb': kept(buildFurniture, 0.25) }));
  await expect(page.getByTestId('total-drawcalls')).toBeVisible({ timeout: 60_000 });
  await goTo(page, 'Plan');
  await page.getByLabel('Width of sheet').selectOption('1024');
  await goTo(page, 'Bake');
  await page.getByRole('button', { name: 'Bake the final' }).click();
  await expect(page.getByRole('main').getByText(/baking|packing|writing|comparing/)).toBeVisible({ timeout: 60_000 });
  await page.goto('about:blank');
  await server.stop('SIGKILL');

  server = await startServer(data);
  try {
    await page.goto(`${server.url}/p/${id}/bake`);
    await expect(page.getByRole('alert')).toContainText('the server stopped while it was running; run it again');
    const project = await projectOf(page, server, id);
    expect(project.jobs[0].state).toBe('interrupted');
    expect(project.sources).toHaveLength(1);
    expect(project.survey.totals.drawCalls).toBe(16);
    expect(await readdir(join(data, 'jobs'))).not.toContain(project.jobs[0].id);
    await page.getByRole('button', { name: 'Bake the final' }).click();
    await expect(page.getByText('Final, 1024 px')).toBeVisible({ timeout: 150_000 });
  } finally {
    await page.goto('about:blank');
    await server.stop();
  }
});

test('requests from other pages and under other names are refused', async ({ server }) => {
  const port = new URL(server.url).port;
  const post = (headers: Record<string, string>) =>
    fetch(`${server.url}/api/demo`, {
      method: 'POST',
      body: '{}',
      headers: { 'content-type': 'application/json', ...headers },
    });
  expect((await post({ origin: 'http://elsewhere.example' })).status).toBe(403);
  expect((await post({ origin: `http://127.0.0.1:${port}`, 'sec-fetch-site': 'cross-site' })).status).toBe(403);
  for (const path of ['..%2f..%2fetc%2fpasswd.glb', '%2e%2e/x.glb', 'a//b.glb']) {
    const put = await fetch(`${server.url}/api/uploads?path=${path}`, {
      method: 'PUT',
      body: 'x',
      headers: { 'content-type': 'application/octet-stream' },
    });
    expect(put.status, path).toBe(400);
  }
});
