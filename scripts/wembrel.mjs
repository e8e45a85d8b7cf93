// Launcher: installs and builds what is missing, then runs the verb. See README.md.
import { spawn } from 'node:child_process';
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

/** Who installs: the launcher and, once it runs, the package manager, each by its process number. */
const claim = join(root, '.cache', 'installing');

const pause = (ms) => new Promise((done) => setTimeout(done, ms));

const alive = (pid) => {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return error.code === 'EPERM';
  }
};

const readClaim = () => {
  try {
    return readFileSync(claim, 'utf8').split(' ').map(Number);
  } catch {
    return [];
  }
};

/** Ends a package manager whose launcher was killed: it would go on in the same folder. */
async function endOrphan(pid) {
  if (!pid || !alive(pid)) return;
  try {
    process.kill(-pid, 'SIGKILL');
  } catch {
    return;
  }
  for (let i = 0; i < 50 && alive(pid); i++) await pause(100);
}

/** Waits until no other launcher installs, then keeps the others waiting until the claim is taken away or this process ends. */
async function claimInstall() {
  mkdirSync(dirname(claim), { recursive: true });
  for (;;) {
    try {
      writeFileSync(claim, String(process.pid), { flag: 'wx' });
      return;
    } catch {
      const [launcher, manager] = readClaim();
      if (launcher && alive(launcher)) await pause(500);
      else {
        await endOrphan(manager);
        rmSync(claim, { force: true });
      }
    }
  }
}

const releaseClaim = () => {
  if (readClaim()[0] === process.pid) rmSync(claim, { force: true });
};

/**
 * Runs a program and passes on to it the signals that end this one. A second signal, or three seconds, end it for good.
 * @param own its own process group, which is ended as a whole
 * @returns its exit code
 */
function supervised(command, args, options, own = false) {
  const child = spawn(command, args, { ...options, detached: own });
  const send = (signal) => {
    try {
      if (own) process.kill(-child.pid, signal);
      else child.kill(signal);
    } catch {
      // It has ended already.
    }
  };
  let asked = false;
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
    process.on(signal, () => {
      if (asked) return send('SIGKILL');
      asked = true;
      // A terminal sends its interrupt to both.
      if (own || signal !== 'SIGINT' || !process.stdin.isTTY) send(signal);
      setTimeout(() => send('SIGKILL'), 3000).unref();
    });
  const ended = new Promise((done) => {
    child.on('error', () => done(1));
    child.on('close', (code, signal) => done(code ?? (signal ? 130 : 1)));
  });
  return { child, ended };
}

/** Installs npm packages when the lock file has changed since the last time, also after an install that was killed. */
async function install() {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  const stamp = join(root, 'node_modules', '.wembrel-lock');
  const installed = () => existsSync(stamp) && readFileSync(stamp, 'utf8') === lock;
  if (installed() && !existsSync(claim)) return;
  await claimInstall();
  if (installed()) return releaseClaim();
  console.error('wembrel: installing packages, about a minute …');
  const { child, ended } = supervised(
    'npm',
    ['ci', '--no-audit', '--no-fund', '--loglevel=error'],
    { cwd: root, stdio: ['ignore', 2, 2] },
    true,
  );
  writeFileSync(claim, `${process.pid} ${child.pid}`);
  const code = await ended;
  if (code !== 0) {
    releaseClaim();
    console.error('wembrel: the packages could not be installed');
    process.exit(1);
  }
  mkdirSync(dirname(stamp), { recursive: true });
  writeFileSync(stamp, lock);
  releaseClaim();
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.removeAllListeners(signal);
}

await install();
const build = await import('./build.mjs');
const run = async (file, args, env = {}) => {
  const { ended } = supervised(process.execPath, [file, ...args], {
    stdio: 'inherit',
    env: { ...process.env, ...env },
  });
  process.exit(await ended);
};

switch (verb) {
  case 'demo':
  case 'start': {
    await build.bundles();
    await build.web();
    await run(join(root, 'dist/serve.mjs'), [verb, ...rest]);
    break;
  }
  case 'dev': {
    await build.bundles();
    await build.watchBundles();
    const { ended } = supervised(
      process.execPath,
      [join(root, 'node_modules/astro/astro.js'), 'dev', '--root', join(root, 'apps/web'), ...rest],
      { stdio: 'inherit', env: { ...process.env, ...build.webEnv() } },
    );
    process.exit(await ended);
    break;
  }
  case 'test':
    await run(join(root, 'scripts/test.mjs'), rest);
    break;
  default:
    await build.bundles();
    await run(join(root, 'dist/cli.mjs'), verb === undefined ? ['--help'] : [verb, ...rest]);
}
