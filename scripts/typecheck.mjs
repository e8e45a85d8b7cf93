// Type check of every package with its own settings: the core knows neither Node nor a browser.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { root, webEnv } from './build.mjs';

const tsc = join(root, 'node_modules/typescript/bin/tsc');
const jobs = [
  // The web application, its pages among it, which the compiler alone does not read.
  ['apps/web', join(root, 'node_modules/@astrojs/check/bin/astro-check.js'), '--minimumSeverity', 'warning'],
  // With the tests goes the command line.
  ['.', tsc, '-p', 'tsconfig.tests.json'],
  ...['runner', 'core', 'demo', 'kernels'].map((p) => ['.', tsc, '-p', `packages/${p}`]),
];

const run = ([folder, ...args]) =>
  new Promise((resolve) => {
    let text = '';
    const child = spawn(process.execPath, args, { cwd: join(root, folder), env: { ...process.env, ...webEnv() } });
    child.stdout.on('data', (d) => {
      text += d;
    });
    child.stderr.on('data', (d) => {
      text += d;
    });
    child.on('close', (code) => {
      if (code !== 0) console.error(`${args.slice(1).join(' ')}\n${text}`);
      resolve(code ?? 1);
    });
  });

// Two at a time: as many as the smallest machine has cores.
let failed = 0;
const next = jobs[Symbol.iterator]();
await Promise.all(
  [0, 1].map(async () => {
    for (const job of next) failed += (await run(job)) === 0 ? 0 : 1;
  }),
);
process.exit(failed === 0 ? 0 : 1);
