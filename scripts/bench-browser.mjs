// The longest task on the page's main thread while one pans, sorts and routes on the demo; prints JSON for `wembrel bench`.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium as browsers } from '@playwright/test';
import { root, web } from './build.mjs';
import { chromium } from './chromium.mjs';

await web();
const data = mkdtempSync(join(tmpdir(), 'wembrel-bench-'));
const server = spawn(process.execPath, [join(root, 'dist/serve.mjs'), 'demo', '--port', '0', '--data', data], {
  stdio: ['ignore', 'pipe', 'inherit'],
});
const url = await new Promise((resolve, reject) => {
  let text = '';
  server.stdout.on('data', (d) => {
    text += d;
    const found = /ready: (\S+)\/survey/.exec(text);
    if (found) resolve(found[1]);
  });
  server.once('exit', () => reject(new Error('the server ended')));
});
const browser = await browsers.launch({
  executablePath: await chromium(),
  args: ['--no-sandbox', '--disable-gpu', '--enable-unsafe-swiftshader', '--disable-background-networking'],
});
const rows = [];
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript(() => {
    window.tasks = [];
    new PerformanceObserver((list) => {
      for (const e of list.getEntries()) window.tasks.push(Math.round(e.duration));
    }).observe({ entryTypes: ['longtask'] });
  });
  /** Longest task while something is done, ms; tasks under 50 ms are not reported by the browser and count as 50. */
  const measure = async (name, path, ready, act) => {
    await page.goto(`${url}/${path}`);
    await ready();
    await page.waitForTimeout(4000);
    await page.evaluate(() => {
      window.tasks.length = 0;
    });
    await act();
    await page.waitForTimeout(500);
    const tasks = await page.evaluate(() => window.tasks);
    rows.push({ name: `longest task, ${name}`, ours: Math.max(50, ...tasks) });
  };
  const read = () => page.getByTestId('total-drawcalls').waitFor({ timeout: 120_000 });
  await measure('sorting', 'survey', read, async () => {
    await page.getByRole('radio', { name: /^Textures/ }).click();
    for (const title of ['Size', 'Memory', 'Texture', 'Copies'])
      await page.getByRole('button', { name: title, exact: true }).click();
  });
  const drag = async (box) => {
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    for (let i = 0; i < 20; i++) await page.mouse.move(box.x + box.width / 2 + i * 6, box.y + box.height / 2 + i * 3);
    await page.mouse.up();
  };
  await measure('turning the model', 'survey', read, async () => drag(await page.locator('canvas').boundingBox()));
  await measure(
    'panning the sheet',
    'uv',
    () => page.locator('[data-plot]').first().waitFor({ timeout: 120_000 }),
    async () => drag(await page.getByRole('group', { name: /^Sheet/ }).boundingBox()),
  );
  await measure(
    'scaling a bay',
    'uv',
    () => page.locator('[data-plot]').first().waitFor({ timeout: 120_000 }),
    async () => {
      await page.locator('[data-plot]').first().click();
      await drag(await page.locator('[data-handle="scale"][data-corner="2"]').boundingBox());
    },
  );
  await measure(
    'routing',
    'plan',
    () => page.locator('[role="option"]').first().waitFor(),
    async () => {
      await page.locator('[role="option"]').first().click();
      for (const key of ['0', 'Backspace', 'ArrowDown', '0', 'Backspace']) {
        await page.keyboard.press(key);
        await page.waitForTimeout(250);
      }
    },
  );
} finally {
  await browser.close();
  server.kill();
  rmSync(data, { recursive: true, force: true });
}
process.stdout.write(JSON.stringify(rows));
