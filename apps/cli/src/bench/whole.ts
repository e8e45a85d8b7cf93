import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buildFurniture } from '@wembrel/demo/furniture';
import { type Apart, apart, forgetKept } from './apart.ts';
import { codecFloor } from './codec-floor.ts';
import { pile } from './survey.ts';
import { type BenchRow, median, round } from './turns.ts';

/** A call of the command line on a folder of files. */
export interface WholeRun {
  name: string;
  /** Seconds of the processors over the codec floor that are wished for. */
  wish: number;
  files: 'furniture' | 'four' | 'pack' | 'alike';
  args: readonly string[];
  delivers: boolean;
  /** With what a run before has kept. */
  again?: true;
}

const RUNS: readonly WholeRun[] = [
  { name: 'merge of the furniture', wish: 10, files: 'furniture', args: ['merge'], delivers: true },
  { name: 'the same, not compared', wish: 6, files: 'furniture', args: ['merge', '--no-compare'], delivers: true },
  { name: 'merge of four', wish: 10, files: 'four', args: ['merge'], delivers: true },
  { name: 'the same, not compared', wish: 6, files: 'four', args: ['merge', '--no-compare'], delivers: true },
  { name: 'proof of the furniture', wish: 10, files: 'furniture', args: ['merge', '--proof'], delivers: true },
  { name: 'survey of 80 models, 250 Mpx', wish: 2, files: 'pack', args: ['survey'], delivers: false },
  { name: 'the same again', wish: 2, files: 'pack', args: ['survey'], delivers: false, again: true },
  { name: 'repair of 100 models with the same 1 Mpx', wish: 3, files: 'alike', args: ['repair'], delivers: true },
];

/** Rounds of each; the median counts. */
const ROUNDS = 3;

/** Whole runs as processes of their own, against the codec floor of the same files in the same turn; start-up is measured apart and taken off. */
export async function wholeBenches(): Promise<BenchRow[]> {
  const folder = await mkdtemp(join(tmpdir(), 'wembrel-bench-'));
  const sources = await writeSources(folder);
  try {
    const starts = [];
    for (let i = 0; i < 5; i++) starts.push(await apart(['--help']));
    const start = median(starts.map(({ cpu }) => cpu));
    const rows: BenchRow[] = [startRow(starts)];
    for (const run of RUNS)
      rows.push(await measured(run, { from: sources[run.files], out: join(folder, 'out'), start, rounds: ROUNDS }));
    return rows;
  } finally {
    for (const one of [folder, ...Object.values(sources)]) await rm(one, { recursive: true, force: true });
    forgetKept();
  }
}

/** Where a run reads and writes, CPU seconds of starting up that do not count, and how often it is run. */
interface Measuring {
  from: string;
  out: string;
  start: number;
  rounds: number;
}

export async function measured(
  run: Omit<WholeRun, 'files'>,
  { from, out, start, rounds }: Measuring,
): Promise<BenchRow> {
  if (run.again) await apart([...run.args, from, '--json']);
  const ours: Apart[] = [];
  const floors: number[] = [];
  for (let i = 0; i < rounds; i++) {
    await rm(out, { recursive: true, force: true });
    const [verb, ...options] = run.args;
    ours.push(
      await apart([
        verb,
        from,
        ...(run.delivers ? ['--out', out] : []),
        ...options,
        '--json',
        ...(run.again ? [] : ['--no-cache']),
      ]),
    );
    floors.push(await codecFloor(from, run.delivers ? out : undefined));
  }
  const [cpu, floor] = [median(ours.map((one) => one.cpu)) - start, median(floors)];
  const peak = Math.max(...ours.map((one) => one.peak)) / 2 ** 20;
  const { seconds } = JSON.parse(ours[0].printed) as { seconds?: Record<string, number> };
  const stages = Object.entries(seconds ?? {}).map(([stage, s]) => `${stage} ${s.toFixed(1)}`);
  return {
    name: run.name,
    unit: 'CPU s',
    ours: round(cpu),
    reference: round(floor),
    against: `codec floor, wish ${run.wish}`,
    ratio: round(cpu / floor),
    note: [
      `${median(ours.map((one) => one.wall)).toFixed(1)} s by the clock`,
      `${peak.toFixed(0)} MiB at most`,
      ...stages,
    ].join(', '),
  };
}

const startRow = (starts: readonly Apart[]): BenchRow => ({
  name: 'start-up',
  unit: 's',
  ours: round(median(starts.map(({ wall }) => wall))),
  reference: null,
  against: 'wish 0.6 s',
  ratio: null,
  note: `${median(starts.map(({ cpu }) => cpu)).toFixed(2)} CPU s, not in the figures below`,
});

async function writeSources(folder: string): Promise<Record<WholeRun['files'], string>> {
  const write = async (name: string, files: Record<string, Uint8Array>) => {
    await mkdir(join(folder, name));
    for (const [file, bytes] of Object.entries(files)) await writeFile(join(folder, name, `${file}.glb`), bytes);
    return join(folder, name);
  };
  return {
    furniture: await write('furniture', { furniture: buildFurniture() }),
    four: await write(
      'four',
      Object.fromEntries([0, 1, 2, 3].map((variant) => [`furniture-${variant}`, buildFurniture(1, variant)])),
    ),
    pack: await pile({ count: 80, cells: 60, side: 1024, each: 3 }),
    alike: await pile({ count: 100, cells: 22, side: 1024, each: 1, shared: true }),
  };
}
