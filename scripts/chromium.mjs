// Finds Debian's Chromium for the browser tests, and installs it where that is possible.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';

const PLACES = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/snap/bin/chromium'];

const find = () => [process.env.WEMBREL_CHROMIUM, ...PLACES].find((p) => p && existsSync(p));

/** Path of Chromium. @throws Error with what to do when there is none and none can be installed */
export async function chromium() {
  const there = find();
  if (there) return there;
  console.error('wembrel: installing Chromium for the browser tests, about a minute …');
  const sudo = process.getuid?.() === 0 ? [] : ['sudo', '-n'];
  for (const step of [
    ['apt-get', 'update'],
    ['apt-get', 'install', '-y', '--no-install-recommends', 'chromium'],
  ]) {
    const [command, ...args] = [...sudo, ...step];
    spawnSync(command, args, {
      stdio: ['ignore', 'ignore', 2],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  }
  const now = find();
  if (!now)
    throw new Error(
      'Chromium is needed for the browser tests: apt-get install chromium, or name one in WEMBREL_CHROMIUM',
    );
  return now;
}
