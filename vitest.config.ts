import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['packages/*/test/**/*.test.ts', 'apps/*/test/**/*.test.ts'],
    // What runs of the command line keep for later ones: each run of the tests begins with nothing.
    env: { WEMBREL_CACHE: mkdtempSync(join(tmpdir(), 'wembrel-test-cache-')) },
    testTimeout: 120_000,
    hookTimeout: 120_000,
    // Two cores: the tests that start worker threads of their own would crowd more.
    maxWorkers: 2,
  },
});
