import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { defineConfig } from '@playwright/test';

// Those who run the tests take it over from the one who starts them.
process.env.WEMBREL_CACHE ??= mkdtempSync(join(tmpdir(), 'wembrel-test-cache-'));

export default defineConfig({
  testDir: './tests',
  outputDir: '../test-results',
  // Each has its own server. Pages wait for jobs and jobs for disks, so that two at a time take two thirds of the time of one.
  workers: 2,
  timeout: 300_000,
  expect: { timeout: 30_000 },
  reporter: process.env.PLAYWRIGHT_JSON_OUTPUT_NAME ? [['list'], ['json']] : [['list']],
  use: {
    viewport: { width: 1280, height: 800 },
    // A control that is not there fails its test within a minute, not at its end.
    actionTimeout: 60_000,
    launchOptions: {
      executablePath: process.env.WEMBREL_CHROMIUM ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--enable-unsafe-swiftshader',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
    screenshot: 'only-on-failure',
  },
});
