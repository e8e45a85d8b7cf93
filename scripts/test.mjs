// Runs everything that must hold: type check, lint, unit tests, browser tests. Ends with one line that counts them all.

import { spawn } from 'node:child_process';
import { randomInt } from 'node:crypto';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bundles, root, web } from './build.mjs';
import { chromium } from './chromium.mjs';

const args = process.argv.slice(2);
const optionOf = (option) => (args.includes(option) ? args[args.indexOf(option) + 1] : undefined);
/** `--only unit,e2e` runs some suites. */
const only = optionOf('--only')?.split(',') ?? ['types', 'lint', 'structure', 'unit', 'e2e'];
/** `--full` tests everything where else samples are taken, with another seed each time, or the one of `--seed`. */
const full = args.includes('--full');
const seed = Number(optionOf('--seed') ?? (full ? randomInt(1, 2 ** 31) : 1));
if (!Number.isInteger(seed) || seed < 1) {
  console.error('wembrel test: --seed takes a whole number from 1 on');
  process.exit(2);
}
const reports = mkdtempSync(join(tmpdir(), 'wembrel-reports-'));
process.env.WEMBREL_TEST_SEED = String(seed);
// What runs of the command line keep for later ones, and files of the demo: each run of the tests begins with nothing.
process.env.WEMBREL_CACHE = join(reports, 'cache');
if (full) process.env.WEMBREL_TEST_FULL = '1';
const bin = (name) => join(root, 'node_modules', '.bin', name);

/** Runs a command with its output shown; resolves to its exit code. */
function run(command, commandArgs, env = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, commandArgs, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
    child.on('close', (code) => resolve(code ?? 1));
    child.on('error', () => resolve(1));
  });
}

const report = (name) =>
  existsSync(join(reports, name)) ? JSON.parse(readFileSync(join(reports, name), 'utf8')) : undefined;

/** What failed, named once more at the end, where it is not lost in the output. */
const broken = [];

/** The failed tests of a report of the browser tests. */
function failedSpecs(suite) {
  const here = (suite.specs ?? []).filter((s) => !s.ok).map((s) => `${s.file}: ${s.title}`);
  return [...here, ...(suite.suites ?? []).flatMap(failedSpecs)];
}

/** Each suite answers with how many passed and failed; a suite that ends badly without counting has failed once. */
const suites = {
  async types() {
    const failed = await run(process.execPath, ['scripts/typecheck.mjs']);
    return { passed: failed ? 0 : 1, failed: failed ? 1 : 0 };
  },
  async lint() {
    const failed = await run(bin('biome'), ['check', '--error-on-warnings', '.']);
    return { passed: failed ? 0 : 1, failed: failed ? 1 : 0 };
  },
  /** Folders know only what lies below them, nothing goes in circles, nothing is public that nobody uses. */
  async structure() {
    const sources = ['packages', 'apps'].flatMap((top) =>
      readdirSync(join(root, top)).map((name) => `${top}/${name}/src`),
    );
    const guards = {
      layers: () => run(bin('depcruise'), ['--config', '.dependency-cruiser.mjs', ...sources]),
      exports: () => run(bin('knip'), ['--no-progress']),
      styles: () => run(process.execPath, ['scripts/styles.mjs']),
      version: () => run(process.execPath, ['scripts/version.mjs']),
    };
    let failed = 0;
    for (const [name, guard] of Object.entries(guards)) {
      if ((await guard()) === 0) continue;
      failed++;
      broken.push(`structure: ${name}`);
    }
    return { passed: Object.keys(guards).length - failed, failed };
  },
  async unit() {
    const file = join(reports, 'unit.json');
    const code = await run(bin('vitest'), [
      'run',
      '--reporter=default',
      '--reporter=json',
      `--outputFile.json=${file}`,
    ]);
    const r = report('unit.json');
    if (!r) return { passed: 0, failed: 1 };
    const unread = r.testResults.filter((t) => t.status === 'failed' && t.assertionResults.length === 0);
    const failed = r.numFailedTests + unread.length;
    broken.push(...unread.map((t) => t.name));
    for (const t of r.testResults)
      broken.push(...t.assertionResults.filter((a) => a.status === 'failed').map((a) => `${t.name}: ${a.fullName}`));
    return { passed: r.numPassedTests, failed: failed === 0 && code !== 0 ? 1 : failed };
  },
  async e2e() {
    await web();
    const code = await run(bin('playwright'), ['test', '--config', 'e2e/playwright.config.ts'], {
      WEMBREL_CHROMIUM: await chromium(),
      PLAYWRIGHT_JSON_OUTPUT_NAME: join(reports, 'e2e.json'),
    });
    const r = report('e2e.json');
    if (!r) return { passed: 0, failed: 1 };
    const failed = r.stats.unexpected + r.stats.flaky + r.errors.length;
    broken.push(...r.suites.flatMap(failedSpecs));
    return { passed: r.stats.expected, failed: failed === 0 && code !== 0 ? 1 : failed };
  },
};

let passed = 0;
let failed = 0;
console.log(`wembrel test: ${full ? 'everything' : 'samples; --full takes everything'}, seed ${seed}`);
try {
  await bundles();
  for (const name of only) {
    const begun = Date.now();
    const r = await suites[name]();
    passed += r.passed;
    failed += r.failed;
    const seconds = ((Date.now() - begun) / 1000).toFixed(0);
    if (r.failed > 0 && !['unit', 'e2e', 'structure'].includes(name)) broken.push(name);
    console.log(`wembrel test: ${name}: ${r.failed === 0 ? 'good' : `${r.failed} failed`}, ${seconds} s\n`);
  }
} catch (error) {
  console.error(error);
  failed++;
} finally {
  rmSync(reports, { recursive: true, force: true });
}
for (const name of broken) console.log(`failed: ${name}`);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
