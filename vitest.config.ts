import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['packages/*/test/**/*.test.ts', 'apps/*/test/**/*.test.ts'],
    testTimeout: 120_000,
    hookTimeout: 120_000,
    // Two cores: the tests that start worker threads of their own would crowd more.
    maxWorkers: 2,
  },
});
