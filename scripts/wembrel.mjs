// Launcher: installs and builds what is missing, then runs the verb. See README.md.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const [verb, ...rest] = process.argv.slice(2);

const major = Number(process.versions.node.split('.')[0]);
if (major < 20) {
  console.error(`wembrel: Node 20 or newer is needed, this is ${process.version}`);
  process.exit(1);
}

/** Installs npm packages when the lock file has changed since the last time. */
function install() {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  const stamp = join(root, 'node_modules', '.wembrel-lock');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
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
    run(join(root, 'node_modules/astro/astro.js'), ['dev', '--root', join(root, 'apps/web'), ...rest], build.webEnv());
    break;
  }
  case 'test':
    run(join(root, 'scripts/test.mjs'), rest);
    break;
  default:
    await build.bundles();
    run(join(root, 'dist/cli.mjs'), verb === undefined ? ['--help'] : [verb, ...rest]);
}
