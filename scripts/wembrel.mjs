// Launcher: installs and builds what is missing, then runs the verb. See README.md.
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const [verb, ...rest] = process.argv.slice(2);

const { engines } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
const [wanted, present] = [engines.node, process.versions.node].map((v) => v.match(/\d+/g).map(Number));
const differs = wanted.findIndex((v, i) => v !== (present[i] ?? 0));
if (differs >= 0 && (present[differs] ?? 0) < wanted[differs]) {
  console.error(`wembrel: Node ${engines.node} is needed, this is ${process.version}`);
  process.exit(1);
}

const claim = join(root, '.cache', 'installing');

/** Waits until no other launcher installs, then keeps the others waiting until the claim is taken away or this process ends. */
function claimInstall() {
  mkdirSync(dirname(claim), { recursive: true });
  for (;;) {
    try {
      writeFileSync(claim, String(process.pid), { flag: 'wx' });
      process.on('exit', () => {
        if (existsSync(claim) && readFileSync(claim, 'utf8') === String(process.pid)) rmSync(claim, { force: true });
      });
      return;
    } catch {
      try {
        process.kill(Number(readFileSync(claim, 'utf8')) || -1, 0);
      } catch {
        rmSync(claim, { force: true }); // whoever had it is gone
        continue;
      }
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 500);
    }
  }
}

/** Installs npm packages when the lock file has changed since the last time. */
function install() {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  const stamp = join(root, 'node_modules', '.wembrel-lock');
  const installed = () => existsSync(stamp) && readFileSync(stamp, 'utf8') === lock;
  if (installed()) return;
  claimInstall();
  if (installed()) {
    rmSync(claim, { force: true });
    return;
  }
  console.error('wembrel: installing packages, about a minute …');
  const done = spawnSync('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], {
    cwd: root,
    stdio: ['ignore', 2, 2],
  });
  if (done.status !== 0) {
    console.error('wembrel: the packages could not be installed');
    process.exit(1);
  }
  mkdirSync(dirname(stamp), { recursive: true });
  writeFileSync(stamp, lock);
  rmSync(claim, { force: true });
}

install();
const build = await import('./build.mjs');
const run = (file, args, env = {}) => {
  const done = spawnSync(process.execPath, [file, ...args], {
    stdio: 'inherit',
    env: { ...process.env, ...env },
  });
  process.exit(done.status ?? 1);
};

switch (verb) {
  case 'demo':
  case 'start': {
    await build.bundles();
    await build.web();
    run(join(root, 'dist/serve.mjs'), [verb, ...rest]);
    break;
  }
  case 'dev': {
    await build.bundles();
    await build.watchBundles();
    const child = spawn(
      process.execPath,
      [join(root, 'node_modules/astro/astro.js'), 'dev', '--root', join(root, 'apps/web'), ...rest],
      { stdio: 'inherit', env: { ...process.env, ...build.webEnv() } },
    );
    for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal));
    child.on('close', (code) => process.exit(code ?? 1));
    break;
  }
  case 'test':
    run(join(root, 'scripts/test.mjs'), rest);
    break;
  default:
    await build.bundles();
    run(join(root, 'dist/cli.mjs'), verb === undefined ? ['--help'] : [verb, ...rest]);
}
