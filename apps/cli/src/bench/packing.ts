import { covered } from '@wembrel/core/pack/covered';
import { pack } from '@wembrel/core/pack/pack';
import { roundsFor } from '@wembrel/core/pack/rounds';
import { searchTasks } from '@wembrel/runner/plans/search-tasks';
import { JobScope } from '@wembrel/runner/pool/job-scope';
import { workerFile } from '../run.ts';
import { type PackingSet, packingSets } from './packing-sets.ts';
import { type BenchRow, round } from './turns.ts';

/**
 * Coverage of a square: true shapes within 1 s in one thread, and within the set's time in all threads with a seed each, against boxes of the same
 * islands.
 */
export async function packingBenches(): Promise<BenchRow[]> {
  const scope = new JobScope(workerFile());
  try {
    const rows: BenchRow[] = [];
    const sets = await packingSets(scope);
    for (const set of sets) rows.push(...(await bench(set, scope)));
    for (const set of sets) for (const sheet of DEFAULT_SHEETS) rows.push(byDefault(set, sheet));
    return rows;
  } finally {
    await scope.close();
  }
}

async function bench(set: PackingSet, scope: JobScope): Promise<BenchRow[]> {
  const { side, margin, seconds, bound } = set;
  const options = { width: side, height: side, margin, maxScale: 1e6, seed: 1 };
  const surface = surfaceOf(set);
  const coverage = (scale: number) => (surface * scale ** 2) / side ** 2;
  const search = async (seed: number, given: number) => {
    const asked = { ...options, rotate: set.rotate, effort: 0, seed };
    const message = { items: set.items, options: asked, seconds: given, cancel: scope.cancel };
    return { seed, ...(await scope.run(searchTasks.search, message)) };
  };
  const first = await search(1, 1);
  const early = first.steps.findLast((step) => step.ms <= 1000)?.scale ?? 0;
  const searches = await Promise.all(Array.from({ length: scope.threads }, (_, k) => search(1 + k, seconds)));
  const ends = searches.map(({ seed, last: { scale, rounds } }) => ({ seed, scale, rounds }));
  const last = ends.reduce((a, end) => (end.scale > a.scale ? end : a));
  const each = ends.map((end) => coverage(end.scale).toFixed(3)).join(', ');
  const reference = coverage(pack(set.boxes, { ...options, rotate: 'quarter', snap: true, effort: 6 }).scale);
  const row = (what: string, ours: number, note: string): BenchRow => ({
    name: `packing ${set.name}, coverage ${what}`,
    unit: 'share',
    ours: round(ours),
    reference: round(reference),
    against: 'boxes of the same islands',
    ratio: round(ours / reference),
    note,
  });
  const allowed = bound === null ? `${set.items.length} islands` : `the margin allows ${bound}`;
  return [
    row('within 1 s', coverage(early), set.about),
    row(
      `within ${seconds} s`,
      coverage(last.scale),
      `${allowed}; a thread each: ${each}; seed ${last.seed}, ${last.rounds} rounds`,
    ),
  ];
}

/** Area that the islands cover; those of files lie on themselves at times. */
const surfaceOf = ({ items }: PackingSet): number => items.reduce((sum, { shape }) => sum + covered(shape).area, 0);

/** Sheets as plans have them: side and margin, px. */
const DEFAULT_SHEETS: readonly (readonly [side: number, margin: number])[] = [
  [2048, 12],
  [4096, 24],
];
/** Effort of a plan that nobody changed. */
const DEFAULT_EFFORT = 6;

/** How long it takes until a set is packed as a plan packs it by default, in one thread. */
function byDefault(set: PackingSet, [side, margin]: readonly [number, number]): BenchRow {
  const { name, items, rotate } = set;
  const surface = surfaceOf(set);
  const begun = performance.now();
  let first: number | null = null;
  const { scale, rounds } = pack(items, {
    ...{ width: side, height: side, margin, rotate, maxScale: 1e6, seed: 1 },
    effort: roundsFor(DEFAULT_EFFORT, items.length),
    better: () => {
      first ??= performance.now() - begun;
    },
  });
  const ours = (performance.now() - begun) / 1000;
  return {
    name: `packing ${name} by default, ${side} px, margin ${margin}`,
    unit: 's',
    ours: round(ours),
    reference: null,
    against: items.length > 1000 ? 'wish 8 s' : 'wish 3 s',
    ratio: null,
    note: `first layout after ${((first ?? 0) / 1000).toFixed(2)} s; ${items.length} islands, coverage ${((surface * scale ** 2) / side ** 2).toFixed(3)}, ${rounds} rounds`,
  };
}
