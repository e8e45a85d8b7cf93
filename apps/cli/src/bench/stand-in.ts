import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buildNewsKiosk } from '@wembrel/demo/news-kiosk';
import { forgetKept } from './apart.ts';
import type { BenchRow } from './turns.ts';
import { measured, type WholeRun } from './whole.ts';

const COMMON = ['stand-in', '--triangles', '25000', '--size', '2048'];

/** A kiosk of a quarter of a million triangles with maps of 2048 px; the shape alone, then what is reported apart. */
const RUNS: readonly Omit<WholeRun, 'files'>[] = [
  { name: 'stand-in, proof', wish: 1, args: [...COMMON, '--proof'], delivers: true },
  { name: 'stand-in, simplified', wish: 6, args: [...COMMON, '--lods', '0', '--no-compare'], delivers: true },
  { name: 'stand-in, hull', wish: 6, args: [...COMMON, '--as', 'hull', '--lods', '0', '--no-compare'], delivers: true },
  { name: 'stand-in with levels, cards, compared', wish: 10, args: [...COMMON, '--cards', '2'], delivers: true },
];

/** Triangles of the kiosk, as a share of those of the demo's, and the side of its maps. */
const DETAIL = 1.1;
const SIDE = 2048;

/** Stand-ins as processes of their own; each once, since one takes minutes. */
export async function standInBenches(): Promise<BenchRow[]> {
  const folder = await mkdtemp(join(tmpdir(), 'wembrel-bench-'));
  const from = join(folder, 'kiosk');
  try {
    await mkdir(from);
    await writeFile(join(from, 'kiosk.glb'), buildNewsKiosk(DETAIL, SIDE));
    const rows: BenchRow[] = [];
    for (const run of RUNS) rows.push(await measured(run, { from, out: join(folder, 'out'), start: 0, rounds: 1 }));
    return rows;
  } finally {
    await rm(folder, { recursive: true, force: true });
    forgetKept();
  }
}
