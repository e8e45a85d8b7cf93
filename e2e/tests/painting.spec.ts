import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Locator, Page } from '@playwright/test';
import { writePng } from '@wembrel/core/image/png';
import { rectangle } from '@wembrel/demo/geometry';
import { GlbWriter } from '@wembrel/demo/glb-writer';
import { laid, primitive } from '@wembrel/demo/pieces';
import { buildBarePlatform } from '@wembrel/demo/platform';
import { buildSigns } from '@wembrel/demo/signs';
import sharp from 'sharp';
import { kept } from '../../packages/demo/test/kept.ts';
import { decide, expect, goTo, newProject, projectOf, test } from '../app.ts';
import { type Server, temporary } from '../server.ts';

test.setTimeout(300_000);

/** Sends files as dropping them on Survey does. */
async function addFiles(page: Page, files: Record<string, Uint8Array>): Promise<void> {
  const folder = temporary();
  for (const [name, bytes] of Object.entries(files)) {
    await mkdir(dirname(join(folder, name)), { recursive: true });
    await writeFile(join(folder, name), bytes);
  }
  await page.getByTestId('files').setInputFiles(Object.keys(files).map((name) => join(folder, name)));
}

async function facesOf(page: Page): Promise<Locator> {
  await goTo(page, 'UV layout');
  await page.getByRole('radio', { name: 'Faces of models' }).click();
  const picture = page.locator('[data-loads]:not([data-loads="0"])').first();
  await expect(picture).toBeVisible({ timeout: 30_000 });
  return picture;
}

/** Drags over an element with keys held; points are shares of its width and height. */
async function dragOver(page: Page, on: Locator, keys: string[], way: [number, number][]): Promise<void> {
  const box = await on.boundingBox();
  if (!box) throw new Error('nothing to drag over');
  const at = ([x, y]: [number, number]): [number, number] => [box.x + x * box.width, box.y + y * box.height];
  for (const key of keys) await page.keyboard.down(key);
  await page.mouse.move(...at(way[0]));
  await page.mouse.down();
  for (const point of way.slice(1)) await page.mouse.move(...at(point), { steps: 8 });
  await page.mouse.up();
  for (const key of keys) await page.keyboard.up(key);
}

const ALL: [number, number][] = [
  [0.02, 0.1],
  [0.98, 0.9],
];

const idle = (page: Page, server: Server, id: string) =>
  expect
    .poll(
      async () =>
        (await projectOf(page, server, id)).jobs.some((job: { state: string }) => /queued|running/.test(job.state)),
      { timeout: 60_000 },
    )
    .toBe(false);

/** Asks of the base colour of the newest final whether a picture stands on it somewhere, texel by texel. */
async function textureOf(
  page: Page,
  server: Server,
  id: string,
  side: number,
  sheet = 'sheet',
): Promise<(wanted: Uint8Array) => boolean> {
  const { jobs } = await projectOf(page, server, id);
  const job = jobs.find((one: { kind: string; state: string }) => one.kind === 'final' && one.state === 'done');
  const at = `${server.url}/api/jobs/${job.id}/files/delivery/textures/${sheet}_baseColor.png`;
  const answer = await page.request.get(at);
  expect(answer.ok()).toBe(true);
  const { data, info } = await sharp(await answer.body())
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const sameAt = (wanted: Uint8Array, x: number, y: number): boolean => {
    for (let v = 0; v < side; v++) {
      const row = ((y + v) * info.width + x) * 3;
      const line = wanted.subarray(v * side * 3, (v + 1) * side * 3);
      if (Buffer.compare(data.subarray(row, row + side * 3), line) !== 0) return false;
    }
    return true;
  };
  return (wanted) => {
    for (let y = 0; y + side <= info.height; y++)
      for (let x = 0; x + side <= info.width; x++) if (sameAt(wanted, x, y)) return true;
    return false;
  };
}

/** A picture of texels that are all unlike. */
const texels = (side: number, shade: number): Uint8Array =>
  Uint8Array.from({ length: side * side * 3 }, (_, i) => (shade + ((i * 2654435761) >>> 24)) % 200);

test('boxes and lines take what is seen, quads as wholes; what is hidden is never taken, and what it encloses is a piece', async ({
  page,
  server,
}) => {
  await newProject(page, server, 'Boxes');
  await addFiles(page, { 'platform.glb': kept(buildBarePlatform) });
  const picture = await facesOf(page);
  const amount = page.getByText(/selected$/);
  await page.getByLabel('quads').check();
  await dragOver(page, picture, ['Shift'], ALL);
  await expect(amount).toHaveText(/^800 faces, 400 quads, 144 m² selected$/);
  // From the left half on, and with Ctrl what was selected stays.
  await dragOver(page, picture, ['Shift', 'Alt'], [[0.02, 0.1], [0.5, 0.1], [0.5, 0.9], [0.02, 0.9], [0.02, 0.2]]); // biome-ignore format: one way
  const quads = async () => Number(((await amount.textContent()) ?? '').match(/(\d+) quads/)?.[1]);
  await expect.poll(quads).toBeLessThan(300);
  expect(await quads()).toBeGreaterThan(100);
  await dragOver(page, picture, ['Shift', 'Control'], ALL);
  await expect(amount).toHaveText(/400 quads/);

  await page.getByRole('button', { name: 'None', exact: true }).click();
  await picture.click();
  await expect(amount).toHaveText(/^2 faces, 1 quad, /);
  for (let ring = 0; ring < 2; ring++) await page.getByRole('button', { name: 'Grow', exact: true }).click();
  await expect(amount).toHaveText(/25 quads/);
  await page.getByRole('button', { name: 'New from 50 faces' }).click();
  await page.getByRole('button', { name: 'Shrink', exact: true }).click();
  await expect(amount).toHaveText(/9 quads/);
  await page.getByRole('button', { name: 'Hide', exact: true }).click();
  await expect(amount).toHaveText('nothing selected');
  await page.getByRole('button', { name: 'All', exact: true }).click();
  await expect(amount).toHaveText(/391 quads/);
  await dragOver(page, picture, ['Shift'], ALL);
  await expect(amount).toHaveText(/391 quads/);
  await page.getByRole('button', { name: /^Select the 50 faces of/ }).click();
  await expect(amount).toHaveText(/16 quads/);
  await page.getByRole('button', { name: 'Show all' }).click();
  await page.getByRole('button', { name: 'Hide', exact: true }).click();
  await page.getByRole('radio', { name: 'piece' }).click();
  await picture.click();
  await expect(amount).toHaveText(/^18 faces, 9 quads/);
});

test('a platform of 400 quads, from nothing to a pixel-sharp delivery with a variant on 7 % of it', async ({
  page,
  server,
}) => {
  const id = await newProject(page, server, 'Platform');
  const side = 32;
  const [paving, cracked] = [texels(side, 10), texels(side, 50)];
  await addFiles(page, {
    'platform.glb': kept(buildBarePlatform),
    'Paving.png': writePng(paving, side, side, 3),
    'Paving Cracked.png': writePng(cracked, side, side, 3),
  });
  await facesOf(page);
  await page.getByRole('button', { name: 'Select the 800 faces in no group' }).click();
  await page.getByRole('button', { name: 'New from 800 faces' }).click();
  await page.getByLabel('Kind of change').selectOption('cells');
  await page.getByRole('button', { name: /^Add for/ }).click();
  await page.getByRole('button', { name: /1\. Give whole cells/ }).click();
  const slot = page.getByLabel('Texture 1');
  await slot.fill('Paving');
  await slot.press('Enter');
  await page.getByRole('button', { name: 'Mix in another texture' }).click();
  const second = page.getByLabel('Texture 2');
  await second.fill('Paving Cracked');
  await second.press('Enter');
  const share = page.getByLabel('Share', { exact: true });
  await share.nth(0).fill('93');
  await share.nth(0).press('Enter');
  await share.nth(1).fill('7');
  await share.nth(1).press('Enter');
  await expect(page.getByText('400 quads, 0 single triangles: Paving 372, Paving Cracked 28')).toBeVisible();
  await expect
    .poll(async () => (await projectOf(page, server, id)).survey?.slots.map((one: { name: string }) => one.name), {
      timeout: 60_000,
    })
    .toEqual(['Paving', 'Paving Cracked']);
  await idle(page, server, id);
  // The pictures are there, and seen in 3D as on the UVs.
  await expect(page.getByRole('img', { name: /^UVs: Paving;/ })).toBeVisible();
  const { survey } = await projectOf(page, server, id);
  expect(survey.loose.map(({ path, to }: { path: string; to: string[] }) => [path, to])).toEqual([
    ['Paving Cracked.png', ['Paving Cracked']],
    ['Paving.png', ['Paving']],
  ]);

  await goTo(page, 'Plan');
  await page.getByLabel('Width of sheet').selectOption('128');
  await goTo(page, 'UV layout');
  await page.getByRole('radio', { name: 'Bays on sheets' }).click();
  await page.getByLabel(/Align to texels/).check({ timeout: 20_000 });
  await goTo(page, 'Bake');
  await page.getByRole('button', { name: 'Bake the final' }).click();
  await expect(page.getByText(/^Final, /)).toBeVisible({ timeout: 120_000 });
  const stands = await textureOf(page, server, id, side);
  expect([stands(paving), stands(cracked)]).toEqual([true, true]);
});

test('pictures are put into the cells of a tile sheet; faces get them, and they are baked texel by texel', async ({
  page,
  server,
}) => {
  const id = await newProject(page, server, 'Cells');
  const [brick, gravel] = [texels(16, 7), texels(16, 90)];
  await addFiles(page, { 'platform.glb': kept(buildBarePlatform, 6) });
  await expect(page.getByTestId('total-slots')).toHaveText('1', { timeout: 60_000 });
  await goTo(page, 'Plan');
  await page.getByRole('button', { name: 'Sheet options' }).click();
  await page.getByLabel('Kind of sheet').selectOption('tile');
  await page.getByLabel('Cells of sheet').selectOption('16');
  await page.getByLabel('Width of sheet').selectOption('64');
  const files = { 'Brick.png': brick, 'Gravel.png': gravel };
  await page.getByTestId(/^cells-/).setInputFiles(
    Object.entries(files).map(([name, data]) => ({
      name,
      mimeType: 'image/png',
      buffer: Buffer.from(writePng(data, 16, 16, 3)),
    })),
  );
  const planned = async () => (await projectOf(page, server, id)).decisions.planned;
  await expect
    .poll(async () => (await planned()).map((one: { name: string; width: number }) => [one.name, one.width]))
    .toEqual([
      ['Brick', 16],
      ['Gravel', 16],
    ]);

  await facesOf(page);
  await page.getByRole('button', { name: 'Select the 72 faces in no group' }).click();
  await page.getByRole('button', { name: 'New from 72 faces' }).click();
  await page.getByLabel('Kind of change').selectOption('cells');
  await page.getByRole('button', { name: /^Add for/ }).click();
  await page.getByRole('button', { name: /1\. Give whole cells/ }).click();
  await page.getByLabel('Texture 1').fill('Brick');
  await page.getByLabel('Texture 1').press('Enter');
  await page.getByRole('button', { name: 'Mix in another texture' }).click();
  await page.getByLabel('Texture 2').fill('Gravel');
  await page.getByLabel('Texture 2').press('Enter');
  await expect(page.getByText('36 quads, 0 single triangles: Brick 18, Gravel 18')).toBeVisible();
  await expect
    .poll(async () => (await planned()).map((one: { linked: string }) => one.linked), { timeout: 30_000 })
    .toEqual(['Brick', 'Gravel']);
  await idle(page, server, id);
  await goTo(page, 'Plan');
  // Where the surfaces were sent, their slots go.
  await expect(page.getByRole('region', { name: 'Kept apart' })).toContainText('Every slot is merged.', {
    timeout: 30_000,
  });
  await goTo(page, 'Bake');
  await page.getByRole('button', { name: 'Bake the final' }).click();
  await expect(page.getByText(/^Final, /)).toBeVisible({ timeout: 120_000 });
  const stands = await textureOf(page, server, id, 16);
  expect([stands(brick), stands(gravel)]).toEqual([true, true]);
});

test('forty signs are painted from one palette: gathered once, chosen once, painted piece by piece, replaced everywhere', async ({
  page,
  server,
}) => {
  const id = await newProject(page, server, 'Forty signs');
  const signs = Object.fromEntries(
    Object.entries(kept(buildSigns)).map(([name, bytes]) => [name.split('/').pop() as string, bytes]),
  );
  expect(Object.keys(signs)).toHaveLength(40);
  await addFiles(page, signs);
  await expect(page.getByTestId('total-slots')).toHaveText('40', { timeout: 120_000 });
  const picture = await facesOf(page);
  await page.getByRole('button', { name: /^Select the .+ faces? in no group/ }).click();
  await page.getByRole('button', { name: /^New from/ }).click();
  const group = await page.getByLabel('Name of the group').inputValue();
  await page.getByLabel('Add all of a slot or part, in all models').selectOption(`slot ${group}`);
  await page.getByLabel('Kind of change').selectOption('swatches');
  await page.getByRole('button', { name: /^Add for/ }).click();
  await page.getByRole('button', { name: /1\. Map to palette/ }).click();
  await page.getByRole('button', { name: 'Gather from the faces' }).click();
  const colours = page.getByRole('radiogroup', { name: 'Paint with' }).getByRole('radio');
  await expect.poll(() => colours.count(), { timeout: 60_000 }).toBeGreaterThan(4);
  const gathered = await colours.count();
  await idle(page, server, id);

  // One of them is chosen once, and paints a piece with each click; a new one is added later.
  await colours.nth(0).click();
  const name = ((await colours.nth(0).getAttribute('aria-label')) ?? '').replace('Paint with ', '');
  await page.getByRole('radio', { name: 'slot' }).click();
  await picture.click();
  await expect(page.getByRole('button', { name: /^Select its [1-9]\d* faces/ })).toBeVisible();
  await page.getByRole('button', { name: 'Add a colour' }).click();
  await expect(colours).toHaveCount(gathered + 1);
  await picture.click();
  await expect(page.getByRole('button', { name: /^Select its [1-9]\d* faces/ })).toBeVisible();
  await picture.press('Escape');
  await expect(page.getByText('Clicks, boxes and lines now paint')).toBeHidden();

  // Replaced once, it is replaced on all signs, whichever way they got it.
  await colours.nth(0).click();
  const colour = page.getByLabel('Colour', { exact: true }).first();
  await colour.fill('#12ab34');
  await colour.blur();
  const edits = async () => JSON.stringify((await projectOf(page, server, id)).decisions.faces.edits);
  await expect.poll(async () => (await edits()).match(/#12ab34/g)?.length).toBeGreaterThanOrEqual(1);
  await idle(page, server, id);
  const { survey } = await projectOf(page, server, id);
  const slots = survey.slots.map((one: { name: string }) => one.name) as string[];
  expect(slots.filter((one) => one === name).length).toBeGreaterThan(1);
  expect(slots).toContain('Colour 1');
  // All of it is one small sheet.
  await goTo(page, 'Plan');
  const bill = page.getByRole('complementary', { name: 'The bill' });
  await expect(bill.getByRole('row', { name: /Draw calls/ })).toContainText('40', { timeout: 30_000 });
});

/** Where the five kinds of faces lie on the UVs, from (u, v) to (u, v). */
const REGIONS: Record<string, [number, number, number, number]> = {
  TramBody: [0.02, 0.02, 0.48, 0.48],
  TramGlass: [0.52, 0.02, 0.98, 0.48],
  TramDoors: [0.02, 0.52, 0.48, 0.72],
  TramRoof: [0.52, 0.52, 0.98, 0.72],
  TramUnderframe: [0.02, 0.76, 0.7, 0.98],
};

/** A tram's body in one slot; some of its faces lie where nobody looks for them. */
function rawTram(): Uint8Array {
  const glbWriter = new GlbWriter();
  const places = Object.values(REGIONS);
  const rows = places.flatMap(([u0, v0, u1, v1], kind) =>
    Array.from({ length: 4 }, (_, i) => ({
      kind,
      u: [u0 + ((u1 - u0) * i) / 4, u0 + ((u1 - u0) * (i + 1)) / 4],
      v: [v0, v1],
    })),
  );
  const forgotten = [0, 1, 2].map((i) => ({ kind: 5, u: [0.75 + i * 0.08, 0.8 + i * 0.08], v: [0.9, 0.95] }));
  const all = [...rows, ...forgotten];
  const charts = all.map(({ kind }, i) => rectangle([(i % 4) * 2, kind * 0.6, 0], [2, 0, 0], [0, -0.6, 0]));
  const surface = laid(charts, (chart, u, v) => {
    const { u: us, v: vs } = all[chart];
    return [us[0] + ((us[1] - us[0]) * u) / 2, vs[0] + ((vs[1] - vs[0]) * v) / 0.6];
  });
  const material = glbWriter.material({ name: 'TramRaw', pbrMetallicRoughness: { metallicFactor: 0 } });
  glbWriter.node({ name: 'tram', mesh: glbWriter.mesh('tram', [primitive(glbWriter, surface, material)]) });
  return glbWriter.glb();
}

/** Workers answer that much later, ms: the model is read again meanwhile. */
const slowWorkers = (page: Page, delay: number) =>
  page.addInitScript((delay) => {
    const handler = Object.getOwnPropertyDescriptor(Worker.prototype, 'onmessage');
    Object.defineProperty(Worker.prototype, 'onmessage', {
      set(this: Worker, answer: (event: MessageEvent) => void) {
        handler?.set?.call(this, (event: MessageEvent) => setTimeout(() => answer.call(this, event), delay));
      },
    });
  }, delay);

test('a tram body gets its five required slots, and the faces that were forgotten are found', async ({
  page,
  server,
}) => {
  await slowWorkers(page, 1500);
  const id = await newProject(page, server, 'Tram');
  await decide(page, server, id, 'All slots stay', { mergeAll: false, keepAll: true });
  await page.reload();
  await addFiles(page, { 'tram.glb': rawTram() });
  await expect(page.getByTestId('total-slots')).toHaveText('1', { timeout: 60_000 });
  await goTo(page, 'Plan');
  await page.getByRole('button', { name: 'Require names' }).click();
  await page.getByLabel(/^Slots, one a line/).fill(Object.keys(REGIONS).join('\n'));
  await page.getByLabel(/^Textures, one a line/).click();
  const required = page.getByRole('region', { name: 'Required names' });
  await expect(required).toContainText('the slot "TramRaw" bears no required name');

  await facesOf(page);
  const uvs = page.getByRole('img', { name: /^UVs: / });
  await expect(uvs).toBeVisible();
  const box = await uvs.boundingBox();
  if (!box) throw new Error('the UVs are not there');
  // Fitted: 0–1 in the middle, 92 % of the shorter side.
  const px = 0.92 * Math.min(box.width, box.height);
  const at = (u: number, v: number): [number, number] => [
    (box.width / 2 + (u - 0.5) * px) / box.width,
    (box.height / 2 + (v - 0.5) * px) / box.height,
  ];
  const groups = () => page.getByRole('button', { name: /^Select the .+ faces? of/ });
  for (const [i, [name, [u0, v0, u1, v1]]] of Object.entries(REGIONS).entries()) {
    await page.getByRole('button', { name: 'None', exact: true }).click({ force: true });
    await dragOver(page, uvs, ['Shift'], [at(u0 + 0.01, v0 + 0.01), at(u1 - 0.01, v1 - 0.01)]);
    await expect(page.getByText(/^8 faces, .* selected$/)).toBeVisible();
    await page.getByRole('button', { name: 'New from 8 faces' }).click();
    await expect(groups()).toHaveCount(i + 1);
    const title = page.getByLabel('Name of the group');
    await title.fill(name);
    await title.press('Enter');
    await page.getByLabel('Kind of change').selectOption('slot');
    await page.getByRole('button', { name: `Add for ${name}` }).click();
    // Its slot is called after the group.
    await expect(page.getByRole('button', { name: `${i + 1}. Assign slot: ${name} → ${name}` })).toBeVisible();
  }
  await idle(page, server, id);
  await goTo(page, 'Plan');
  // Some faces have the raw slot still.
  await expect(required).toContainText('the slot "TramRaw" bears no required name');
  await facesOf(page);
  await page.getByRole('button', { name: 'Select the 6 faces in no group' }).click();
  await page.getByRole('button', { name: 'TramUnderframe', exact: true }).click();
  await page.getByRole('button', { name: 'Put selected in' }).click();
  await expect(page.getByRole('button', { name: 'Select the 0 faces in no group' })).toBeVisible();
  await expect
    .poll(
      async () => (await projectOf(page, server, id)).survey?.slots.map((slot: { name: string }) => slot.name).sort(),
      { timeout: 60_000 },
    )
    .toEqual(Object.keys(REGIONS).sort());
  await goTo(page, 'Plan');
  await expect(required).not.toContainText('bears no required name');
});
