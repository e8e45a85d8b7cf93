// Type check of every package with its own settings: the core knows neither Node nor a browser.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { root, webEnv } from './build.mjs';

// The native compiler; the check of the pages needs the one in JavaScript.
const tsc = join(root, 'node_modules/typescript-native/bin/tsc');
/** What a check has found stays in .cache, so that the next one reads only what has changed since. */
const incremental = (name) => ['--incremental', '--tsBuildInfoFile', join(root, '.cache/types', `${name}.tsbuildinfo`)];
const check = (project, name) => [name, '.', tsc, '-p', project, ...incremental(name)];
const packages = ['runner', 'core', 'demo', 'kernels'].map((p) => check(`packages/${p}`, p));
// With the tests goes the command line.
const own = [check('tsconfig.tests.json', 'tests'), ...packages, check('apps/web', 'web')];
/** The pages of the web application, which the compiler alone does not read; they are few, and it takes as long as all else. */
const pages = [
  'pages',
  'apps/web',
  join(root, 'node_modules/@astrojs/check/bin/astro-check.js'),
  '--minimumSeverity',
  'warning',
];

// `node scripts/typecheck.mjs [--quick] [NAME …]`: everything, all but pages, or some of it.
const names = process.argv.slice(2).filter((a) => a !== '--quick');
const all = process.argv.includes('--quick') ? own : [pages, ...own];
const jobs = names.length === 0 ? all : all.filter(([name]) => names.includes(name));

const run = ([, folder, ...args]) =>
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
    for (const job of next) {
      const code = await run(job);
      if (code !== 0) failed++;
    }
  }),
);
process.exit(failed === 0 ? 0 : 1);
