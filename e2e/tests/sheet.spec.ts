import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { buildFurniture } from '@wembrel/demo/furniture';
import { kept } from '../../packages/demo/test/kept.ts';
import { decide, expect, goTo, newProject, projectOf, reloadSaved, test } from '../app.ts';
import { temporary } from '../server.ts';

test('the sheet by hand: a lasso, bays kept together and apart again, one flipped, and any baked map below', async ({
  page,
  server,
}) => {
  const id = await newProject(page, server, 'Sheet by hand');
  const at = temporary();
  await writeFile(join(at, 'stop.glb'), kept(buildFurniture, 0.25));
  await page.getByTestId('files').setInputFiles([join(at, 'stop.glb')]);
  await expect(page.getByTestId('total-drawcalls')).toBeVisible({ timeout: 60_000 });
  const project = async () => projectOf(page, server, id);
  const sheet = async () => (await project()).decisions.sheets[0];
  const undo = page.getByRole('button', { name: 'Undo', exact: true });
  await goTo(page, 'UV layout');
  await page.getByLabel('Width', { exact: true }).selectOption('256');
  await page.getByLabel('Margin', { exact: true }).fill('4');
  await page.getByLabel('Margin', { exact: true }).press('Enter');
  const packed = page.getByText(/\d+ bays packed in/);
  await expect(packed).toBeVisible({ timeout: 60_000 });
  const bays = page.locator('[data-plot]');
  await expect(bays.nth(3)).toBeVisible();

  // A loop around the whole sheet takes all bays, one around nothing none.
  const stage = await page.getByRole('group', { name: /^Sheet/ }).boundingBox();
  if (!stage) throw new Error('the sheet is not there');
  const loop = async (left: number, top: number, right: number, bottom: number) => {
    await page.mouse.move(left, top);
    await page.keyboard.down('Shift');
    await page.keyboard.down('Alt');
    await page.mouse.down();
    for (const [x, y] of [
      [right, top],
      [right, bottom],
      [left, bottom],
      [left, top],
    ])
      await page.mouse.move(x, y, { steps: 6 });
    await page.mouse.up();
    await page.keyboard.up('Alt');
    await page.keyboard.up('Shift');
  };
  const [right, bottom] = [stage.x + stage.width, stage.y + stage.height];
  await loop(stage.x + 3, stage.y + 3, right - 3, bottom - 3);
  const count = await bays.count();
  await expect(page.getByText(`${count} bays selected`)).toBeVisible();
  await loop(right - 12, stage.y + 2, right - 4, stage.y + 8);
  await expect(page.getByText(/bays selected/)).toBeHidden();

  // Two of them as one: they keep their places to each other.
  await bays.nth(0).click();
  await bays.nth(1).click({ modifiers: ['Shift'] });
  await expect(page.getByText('2 bays selected')).toBeVisible();
  await page.getByRole('button', { name: 'Keep together' }).click();
  await expect.poll(async () => (await sheet()).rigid).toMatchObject([[{ turns: expect.any(Number) }, {}]]);
  await expect(page.getByRole('button', { name: 'group 1 (2)' })).toBeVisible();
  await page.getByRole('button', { name: 'Separate' }).click();
  await expect.poll(async () => (await sheet()).rigid).toEqual([]);
  await expect(page.getByRole('button', { name: 'group 1 (2)' })).toBeHidden();

  // Mirrored over an upright line through its middle, and back.
  await bays.nth(0).click();
  const flip = page.getByRole('button', { name: 'flip ↔' });
  await flip.click();
  await expect(page.getByText(/1 island, mirrored|islands stacked, mirrored/)).toBeVisible();
  await expect.poll(async () => (await sheet()).flipped).toHaveLength(1);
  await flip.click();
  await expect(page.getByText(/, mirrored/)).toBeHidden();
  await expect.poll(async () => (await sheet()).flipped).toEqual([]);
  await undo.click();
  await expect(page.getByText(/, mirrored/)).toBeVisible();
  await expect(packed).toBeVisible({ timeout: 60_000 });

  await goTo(page, 'Bake');
  await page.getByRole('button', { name: 'Bake a proof' }).click();
  await expect(page.getByText('Proof, 64 px')).toBeVisible({ timeout: 60_000 });
  const { jobs } = await project();
  const manifest = await (
    await page.request.get(`${server.url}/api/jobs/${jobs[0].id}/files/delivery/manifest.json`)
  ).json();
  const [flipped] = (await sheet()).flipped;
  expect(manifest.sheets[0].bays.filter((bay: { flipped?: true }) => bay.flipped)).toMatchObject([{ key: flipped }]);
  await goTo(page, 'UV layout');
  const below = page.getByLabel('Islands show');
  await expect(below).toHaveValue('baseColor');
  const picture = page
    .getByRole('group', { name: /^Sheet/ })
    .locator('img')
    .first();
  await expect(picture).toHaveAttribute('src', /baseColor|base|colour/i);
  const before = await picture.getAttribute('src');
  await below.selectOption('normal');
  await expect(picture).not.toHaveAttribute('src', before ?? '');
  await below.selectOption('nothing');
  await expect(picture).toBeHidden();
});

test('islands show what a bake will put there, before it is baked; bays are scaled and turned by dragging', async ({
  page,
  server,
}) => {
  const id = await newProject(page, server, 'Texels');
  const at = temporary();
  await writeFile(join(at, 'stop.glb'), kept(buildFurniture, 0.25));
  await page.getByTestId('files').setInputFiles([join(at, 'stop.glb')]);
  await expect(page.getByTestId('total-drawcalls')).toBeVisible({ timeout: 60_000 });
  const pins = async () => Object.values((await projectOf(page, server, id)).decisions.sheets[0].pinned);
  await goTo(page, 'UV layout');
  await page.getByLabel('Width', { exact: true }).selectOption('256');
  await page.getByLabel('Margin', { exact: true }).fill('4');
  await page.getByLabel('Margin', { exact: true }).press('Enter');
  await page.getByLabel('Rotation').selectOption('free');
  const packed = page.getByText(/\d+ bays packed in/);
  await expect(packed).toBeVisible({ timeout: 60_000 });
  const stage = page.getByRole('group', { name: /^Sheet/ });
  const bays = page.locator('[data-plot]');

  // The largest one is scaled by a corner, by half as much again, then turned by a quarter by an arc.
  const boxes = await Promise.all((await bays.all()).map((b) => b.boundingBox()));
  const areas = boxes.map((box) => (box ? box.width * box.height : 0));
  const largest = bays.nth(areas.indexOf(Math.max(...areas)));
  await largest.click();
  const shown = async () => Number(await page.getByLabel('Sharpness', { exact: true }).inputValue());
  const sharp = await shown();
  const corner = (kind: string, k: number) => page.locator(`[data-handle="${kind}"][data-corner="${k}"]`);
  const middle = async (k: number) => {
    const b = await corner('scale', k).boundingBox();
    if (!b) throw new Error('there are no handles');
    return [b.x + b.width / 2, b.y + b.height / 2] as const;
  };
  const drag = async (from: readonly number[], to: readonly number[]) => {
    await page.mouse.move(from[0], from[1]);
    await page.mouse.down();
    await page.mouse.move(to[0], to[1], { steps: 5 });
    await page.mouse.up();
  };
  const [first, third] = [await middle(0), await middle(2)];
  await drag(third, [third[0] - (third[0] - first[0]) / 4, third[1] - (third[1] - first[1]) / 4]);
  await expect.poll(pins).toHaveLength(1);
  await expect.poll(shown).toBeCloseTo(sharp * 0.75, 0);
  await expect(corner('turn', 2)).toBeVisible();
  const [a, c] = [await middle(0), await middle(2)];
  const [mx, my] = [(a[0] + c[0]) / 2, (a[1] + c[1]) / 2];
  const was = Number(await page.getByLabel('Turned').inputValue());
  const grip = [c[0] + 10, c[1] + 10];
  await drag(grip, [mx - (grip[1] - my), my + (grip[0] - mx)]);
  await expect.poll(async () => Math.abs(Number(await page.getByLabel('Turned').inputValue()) - was) % 180).toBe(90);
  await expect.poll(pins).toHaveLength(1);
  await expect(packed).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(async () => Number(await page.getByLabel('Turned').inputValue())).toBe(was);

  // Texels of the page against those of the bake, wherever the bake is plain.
  await expect(packed).toBeVisible({ timeout: 60_000 });
  await page.getByLabel('Islands coloured by').selectOption('density');
  await expect(page.getByText(/¼ of \d+(\.\d+)? px\/m/)).toBeVisible();
  await page.getByLabel('Islands coloured by').selectOption('slot');
  await goTo(page, 'Bake');
  await page.getByRole('button', { name: 'Bake the final' }).click();
  await expect(page.getByText('Final, 256 px')).toBeVisible({ timeout: 60_000 });
  await goTo(page, 'UV layout');
  await expect(page.getByLabel('Islands show')).toHaveValue('baseColor');
  const map = await stage.locator('img').first().getAttribute('src');
  await page.getByLabel('Islands show').selectOption('sources');
  await expect(stage.locator('canvas')).toBeVisible();
  const compared = () =>
    stage.evaluate(async (el, address) => {
      const canvas = el.querySelector('canvas') as HTMLCanvasElement;
      const outer = canvas.getBoundingClientRect();
      const bay = el.querySelector('[data-plot]') as SVGElement;
      const own = (bay.closest('svg') as SVGElement).getBoundingClientRect();
      const image = await createImageBitmap(await (await fetch(address)).blob());
      const flat = new OffscreenCanvas(image.width, image.height);
      const context = flat.getContext('2d') as OffscreenCanvasRenderingContext2D;
      context.drawImage(image, 0, 0);
      const baked = context.getImageData(0, 0, image.width, image.height).data;
      const seen = (canvas.getContext('2d') as CanvasRenderingContext2D).getImageData(
        0,
        0,
        canvas.width,
        canvas.height,
      );
      const k = canvas.width / outer.width;
      let [points, off] = [0, 0];
      for (let y = 3; y < image.height - 3; y++)
        for (let x = 3; x < image.width - 3; x++) {
          const px = Math.round((own.x - outer.x + ((x + 0.5) / image.width) * own.width) * k);
          const py = Math.round((own.y - outer.y + ((y + 0.5) / image.height) * own.height) * k);
          // Not near the border of an island, and nowhere where the bake changes.
          let whole = true;
          for (const [dx, dy] of [
            [-4, 0],
            [4, 0],
            [0, -4],
            [0, 4],
            [0, 0],
          ])
            whole &&= seen.data[((py + dy) * seen.width + px + dx) * 4 + 3] === 255;
          const o = (y * image.width + x) * 4;
          for (const d of [-8, 8, (-8 * image.width) / 2, 4 * image.width])
            for (let c = 0; c < 3; c++) whole &&= Math.abs(baked[o + c] - baked[o + d + c]) < 4;
          if (!whole) continue;
          points++;
          const s = (py * seen.width + px) * 4;
          if ([0, 1, 2].some((c) => Math.abs(baked[o + c] - seen.data[s + c]) > 8)) off++;
        }
      return { points, off: off / Math.max(1, points) };
    }, map ?? '');
  await expect.poll(async () => (await compared()).points, { timeout: 30_000 }).toBeGreaterThan(4000);
  expect((await compared()).off).toBeLessThan(0.01);
});

test('a tighter layout is looked for until it is tight enough; it comes again after a reload, and can be undone', async ({
  page,
  server,
}) => {
  const id = await newProject(page, server, 'Tight');
  // With the usual one, most of so small a sheet is margin.
  await decide(page, server, id, 'A thin margin', { 'sheets/0/margin': 3 });
  const at = temporary();
  await writeFile(join(at, 'stop.glb'), kept(buildFurniture, 0.25));
  await page.getByTestId('files').setInputFiles([join(at, 'stop.glb')]);
  await expect(page.getByTestId('total-drawcalls')).toBeVisible({ timeout: 60_000 });
  const search = async () => (await projectOf(page, server, id)).decisions.sheets[0].search;
  await goTo(page, 'UV layout');
  const packed = page.getByText(/\d+ bays packed in/);
  const look = page.getByRole('button', { name: 'Search for a tighter packing' });
  await page.getByLabel('Search effort').fill('0');
  await page.getByLabel('Search effort').press('Enter');

  // On a sheet with room for all at their full size there is nothing to look for, and it says so.
  await page.getByLabel('Width', { exact: true }).selectOption('4096');
  await expect(packed).toBeVisible({ timeout: 60_000 });
  await look.click();
  await expect(page.getByText(/bays, all as large as they may be/)).toBeVisible({ timeout: 60_000 });
  expect(await search()).toBeNull();

  await page.getByLabel('Width', { exact: true }).selectOption('256');
  await expect(packed).toBeVisible({ timeout: 60_000 });
  const facts = page.locator('dl', { hasText: 'Sharpness of the sources' }).locator('dd');
  const figures = async () => (await facts.allInnerTexts()).slice(0, 2);
  await look.click();
  await expect(page.getByText(/Looking for a tighter layout on .* round [1-9]/)).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Stop the search' }).click();
  await expect.poll(search).toMatchObject({ seed: expect.any(Number), rounds: expect.any(Number) });
  const found = await search();
  await expect(page.getByLabel('Search effort')).toHaveValue(String(found.rounds));
  await expect(page.getByText(`Looked for with seed ${found.seed}`)).toBeVisible();
  const shown = await figures();

  await reloadSaved(page);
  await expect(packed).toBeVisible({ timeout: 60_000 });
  expect(await figures()).toEqual(shown);

  // A margin of its own makes another sheet of it: packed as the plan says, until somebody looks again.
  await page.getByLabel('Margin', { exact: true }).fill('6');
  await page.getByLabel('Margin', { exact: true }).press('Enter');
  await expect.poll(search).toBeNull();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(search).toEqual(found);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(search).toBeNull();
});
