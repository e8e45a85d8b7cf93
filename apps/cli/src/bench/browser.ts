import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { type BenchRow, round } from './turns.ts';

const SCRIPT = fileURLToPath(new URL('../scripts/bench-browser.mjs', import.meta.url));

/** What the reference asks for: no task on the page's main thread over this, ms. */
const LIMIT = 100;

/** The longest tasks of the page, on the demo in headless Chromium, against the limit. */
export function browserBenches(): BenchRow[] {
  const done = spawnSync(process.execPath, [SCRIPT], { stdio: ['ignore', 'pipe', 'inherit'], encoding: 'utf8' });
  const against = 'the limit for a task on the main thread';
  if (done.status !== 0)
    return [{ name: 'longest tasks in the browser', unit: 'ms', ours: null, reference: LIMIT, against, ratio: null }];
  return (JSON.parse(done.stdout) as { name: string; ours: number }[]).map(({ name, ours }) => ({
    name,
    unit: 'ms',
    ours,
    reference: LIMIT,
    against,
    ratio: round(ours / LIMIT),
    note: '50 stands for all shorter ones',
  }));
}
