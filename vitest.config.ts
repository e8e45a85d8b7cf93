import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { defineConfig } from 'vitest/config';

/** Tests that put something else in the place of a module, or have the variables of a process for themselves. */
const apart = ['packages/runner/test/awkward.test.ts', 'apps/*/test/**/*.test.ts'];

export default defineConfig({
  test: {
    setupFiles: ['packages/core/test/set-up.ts'],
    env: { WEMBREL_CACHE: process.env.WEMBREL_CACHE ?? mkdtempSync(join(tmpdir(), 'wembrel-test-cache-')) },
    testTimeout: 120_000,
    hookTimeout: 120_000,
    // Two cores: the tests that start worker threads of their own would crowd more.
    maxWorkers: 2,
    projects: [
      { extends: true, test: { name: 'apart', include: apart } },
      // One after the other in one process, with modules that are loaded and threads that are started once.
      {
        extends: true,
        test: { name: 'together', include: ['packages/*/test/**/*.test.ts'], exclude: apart, isolate: false },
      },
    ],
  },
});
