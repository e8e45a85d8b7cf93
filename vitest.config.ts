import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { defineConfig } from 'vitest/config';

/** Tests of functions that keep nothing: many files are run one after the other with modules that are loaded once. */
const plain = [
  'packages/core/test/**/*.test.ts',
  'packages/kernels/test/**/*.test.ts',
  'packages/demo/test/**/*.test.ts',
];

export default defineConfig({
  test: {
    setupFiles: ['packages/core/test/set-up.ts'],
    env: { WEMBREL_CACHE: process.env.WEMBREL_CACHE ?? mkdtempSync(join(tmpdir(), 'wembrel-test-cache-')) },
    testTimeout: 120_000,
    hookTimeout: 120_000,
    // Two cores: the tests that start worker threads of their own would crowd more.
    maxWorkers: 2,
    projects: [
      {
        extends: true,
        test: { name: 'apart', include: ['packages/runner/test/**/*.test.ts', 'apps/*/test/**/*.test.ts'] },
      },
      { extends: true, test: { name: 'plain', include: plain, isolate: false } },
    ],
  },
});
