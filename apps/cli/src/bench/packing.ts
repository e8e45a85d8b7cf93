import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { type PackItem, pack } from '@wembrel/core/pack/pack';
import { searchTasks } from '@wembrel/runner/plans/search-tasks';
import { JobScope } from '@wembrel/runner/pool/job-scope';
import earcut from 'earcut';
import { workerFile } from '../run.ts';
import { type BenchRow, round } from './turns.ts';

/** Sets of islands, rings in any unit (P1 mixed, P2 props, P3 small, P4 large concave, P5 strips that may only move). */
const SETS = fileURLToPath(new URL('../apps/cli/bench-data/', import.meta.url));

type Ring = [number, number][];

interface IslandSet {
  name: string;
  desc: string;
  rotate: string;
  islands: { outer: Ring; holes: Ring[] }[];
}

function items(set: IslandSet, boxes: boolean): PackItem[] {
  return set.islands.map(({ outer, holes }) => {
    const x0 = Math.min(...outer.map((p) => p[0]));
    const y0 = Math.min(...outer.map((p) => p[1]));
    const w = Math.max(...outer.map((p) => p[0])) - x0;
    const h = Math.max(...outer.map((p) => p[1])) - y0;
    const flat = [outer, ...holes].flat().flatMap(([x, y]) => [x - x0, y - y0]);
    const starts: number[] = [];
    let at = outer.length;
    for (const hole of holes) {
      starts.push(at);
      at += hole.length;
    }
    const corners = boxes ? [0, 0, w, 0, w, h, 0, h] : flat;
    const indices = boxes ? [0, 1, 2, 0, 2, 3] : earcut(flat, starts);
    const shape = new Float64Array(indices.length * 2);
    indices.forEach((v, i) => {
      shape[i * 2] = corners[v * 2];
      shape[i * 2 + 1] = corners[v * 2 + 1];
    });
    return { shape, factor: 1, mayTurn: true };
  });
}

function area(shape: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < shape.length; i += 6)
    sum +=
      Math.abs(
        (shape[i + 2] - shape[i]) * (shape[i + 5] - shape[i + 1]) -
          (shape[i + 4] - shape[i]) * (shape[i + 3] - shape[i + 1]),
      ) / 2;
  return sum;
}

/** Seconds that each set is given (see "Targets" of the reference), and what its margin alone allows. */
const GIVEN: Record<string, { seconds: number; bound: number }> = {
  P1: { seconds: 10, bound: 0.96 },
  P2: { seconds: 15, bound: 0.93 },
  P3: { seconds: 20, bound: 0.85 },
  P4: { seconds: 10, bound: 0.98 },
  P5: { seconds: 10, bound: 0.88 },
};

/**
 * Coverage of a 1024 px square with a margin of 2 px: true shapes within 1 s in one thread, and within the set's time in all threads with a seed
 * each, against boxes of the same islands.
 */
export async function packingBenches(): Promise<BenchRow[]> {
  const scope = new JobScope(workerFile());
  try {
    const rows: BenchRow[] = [];
    for (const n of [1, 2, 3, 4, 5]) rows.push(...(await bench(n, scope)));
    return rows;
  } finally {
    await scope.close();
  }
}

async function bench(n: number, scope: JobScope): Promise<BenchRow[]> {
  const side = 1024;
  const set = JSON.parse(readFileSync(`${SETS}P${n}.json`, 'utf8')) as IslandSet;
  const options = { width: side, height: side, margin: 2, maxScale: 1e6, seed: 1 };
  const list = items(set, false);
  const surface = list.reduce((sum, i) => sum + area(i.shape), 0);
  const coverage = (scale: number) => (surface * scale ** 2) / side ** 2;
  const { seconds, bound } = GIVEN[set.name];
  const rotate = set.rotate === 'none' ? 'none' : 'free';
  const look = async (seed: number, seconds: number) => {
    const asked = { ...options, rotate, effort: 0, seed } as const;
    return {
      seed,
      ...(await scope.run(searchTasks.look, { items: list, options: asked, seconds, cancel: scope.cancel })),
    };
  };
  const first = await look(1, 1);
  const early = first.steps.findLast((s) => s.ms <= 1000)?.scale ?? 0;
  const looks = await Promise.all(Array.from({ length: scope.threads }, (_, k) => look(1 + k, seconds)));
  const ends = looks.map(({ seed, last: { scale, rounds } }) => ({ seed, scale, rounds }));
  const last = ends.reduce((a, b) => (b.scale > a.scale ? b : a));
  const each = ends.map((e) => coverage(e.scale).toFixed(3)).join(', ');
  const boxes = pack(items(set, true), { ...options, rotate: 'quarter', snap: true, effort: 6 });
  const reference = coverage(boxes.scale);
  const row = (what: string, ours: number, note: string): BenchRow => ({
    name: `packing ${set.name}, coverage ${what}`,
    unit: 'share',
    ours: round(ours),
    reference: round(reference),
    against: 'boxes of the same islands',
    ratio: round(ours / reference),
    note,
  });
  return [
    row('within 1 s', coverage(early), set.desc),
    row(
      `within ${seconds} s`,
      coverage(last.scale),
      `the margin allows ${bound}; a thread each: ${each}; seed ${last.seed}, ${last.rounds} rounds`,
    ),
  ];
}
