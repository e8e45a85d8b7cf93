import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { buildFurniture } from '@wembrel/demo/furniture';
import { unzipSync } from 'fflate';
import { validateBytes } from 'gltf-validator';
import { kept } from '../../packages/demo/test/kept.ts';
import { expect, goTo, newProject, test } from '../app.ts';
import { temporary, wembrel } from '../server.ts';

test('the whole way: drop, figures, proof, final, ZIP; the same bytes as the command line', async ({
  page,
  server,
}) => {
  const folder = temporary();
  const file = join(folder, 'stop-furniture.glb');
  await writeFile(file, kept(buildFurniture, 0.25));
  await newProject(page, server, 'Halt');

  await test.step('the figures are those of the command line', async () => {
    await page.getByTestId('files').setInputFiles(file);
    await expect(page.getByTestId('total-drawcalls')).toBeVisible({ timeout: 60_000 });
    const { code, out } = await wembrel('survey', file, '--json');
    expect(code).toBe(0);
    const { totals } = JSON.parse(out);
    const spaced = (n: number) => String(n).replace(/\B(?=(\d{3})+$)/g, '\u2009');
    for (const [id, value] of [
      ['total-drawcalls', totals.drawCalls],
      ['total-slots', totals.slots],
      ['total-textures', totals.textures],
      ['total-triangles', totals.triangles],
      ['total-vertices', totals.gpuVertices],
    ])
      await expect(page.getByTestId(id)).toHaveText(spaced(value));
  });

  await test.step('the plan', async () => {
    await goTo(page, 'Plan');
    await page.getByRole('option', { name: /ShelterGlass/ }).click();
    await page.keyboard.press('0');
    await page.getByLabel('Width of sheet').selectOption('512');
    await page.getByLabel('Margin of sheet, px').fill('6');
    await page.getByLabel('Margin of sheet, px').press('Enter');
    await expect(page.getByText('12 of 13 slots go onto one sheet')).toBeVisible();
  });

  await test.step('a proof, then the final', async () => {
    await goTo(page, 'Bake');
    await page.getByRole('button', { name: 'Bake a proof' }).click();
    await expect(page.getByText('Proof, 128 px')).toBeVisible({ timeout: 90_000 });
    // What is written does not depend on how closely it is compared.
    await goTo(page, 'Compare');
    await page.getByLabel('Test image size').selectOption('512');
    await goTo(page, 'Bake');
    await page.getByRole('button', { name: 'Bake the final' }).click();
    await expect(page.getByText('Final, 512 px')).toBeVisible({ timeout: 200_000 });
  });

  await test.step('the files are there while they are still being compared', async () => {
    await goTo(page, 'Hand over');
    await expect(page.getByText('being compared; the files are complete')).toBeVisible();
    await expect(page.getByRole('link', { name: 'Download as ZIP' })).toBeVisible();
  });

  await test.step('original and result side by side', async () => {
    await goTo(page, 'Compare');
    await expect(page.locator('[data-ready=true] canvas')).toBeVisible({ timeout: 60_000 });
    await expect(page.getByText(/Worst view .* 5\d\.\d dB, SSIM 0\.999/)).toBeVisible({ timeout: 120_000 });
  });

  await test.step('the ZIP', async () => {
    await goTo(page, 'Hand over');
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'Download as ZIP' }).click(),
    ]);
    const files = unzipSync(new Uint8Array(await readFile(await download.path())));
    const out = join(folder, 'merged');
    await mkdir(out);
    const { code, out: said } = await wembrel(
      ...[
        'merge',
        file,
        '--out',
        out,
        '--size',
        '512',
        '--margin',
        '6',
        '--keep-apart',
        'ShelterGlass',
        '--json',
        '--compare-at',
        '512',
      ],
    );
    expect(code).toBe(0);
    const { written } = JSON.parse(said) as { written: string[] };
    expect(Object.keys(files).sort()).toEqual([...written].sort());
    for (const name of written) {
      const bytes = await readFile(join(out, name));
      expect(Buffer.compare(bytes, files[name]), name).toBe(0);
    }
    const report = await validateBytes(files['stop-furniture.glb'], {
      externalResourceFunction: async (uri: string) => files[uri],
    });
    expect(report.issues.numErrors).toBe(0);
  });
});
