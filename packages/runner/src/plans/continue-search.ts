import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { type PackingSearch, sheetSides } from '@wembrel/core/decisions/sheets';
import { Cancelled } from '@wembrel/core/errors';
import { packedFigures } from '@wembrel/core/layout/coverage';
import { packSheets, scaleFactors } from '@wembrel/core/layout/layout';
import { packingOf } from '@wembrel/core/layout/pack-sheet';
import { planSearches, withSearches } from '@wembrel/core/layout/planned-searches';
import type { JobScope } from '../pool/job-scope.ts';
import type { OnProgress } from '../progress.ts';
import { gatherPlots } from '../stages/lay-out.ts';
import { routePlanned } from '../stages/route.ts';
import type { PlanBasis } from './plan-basis.ts';
import { searchTasks } from './search-tasks.ts';

/** What continued search brought for one sheet. */
export interface ContinuedSearch {
  sheet: number;
  /** Share of the sheet that islands cover, as it was packed and now. */
  before: number;
  after: number;
  /** How it is found again; as it was where nothing tighter was found. */
  search: PackingSearch | null;
}

/** Ms between two words about how far it is. */
const TOLD_EVERY = 250;

/**
 * Looks for tighter layouts of all sheets that hold islands, in all threads of the pool, each with a seed of its own.
 * @param seconds that each thread spends on a sheet @returns one for each such sheet, in order
 * @throws Cancelled @throws Error with a sentence where islands do not fit
 */
export async function continueSearch(
  planBasis: PlanBasis,
  decisions: MergeDecisions,
  seconds: number,
  scope: JobScope,
  onProgress?: OnProgress,
): Promise<ContinuedSearch[]> {
  const report = (share: number, doing: string) => onProgress?.({ stage: 'layout', share, doing });
  const { plots: all } = gatherPlots(routePlanned(planBasis.read, decisions), decisions);
  const factors = scaleFactors(all, decisions.scale, decisions.sheets);
  const packed = packSheets(all, decisions, {
    cancelled: () => scope.cancelled,
    progress: (share) => report(0.1 * share, 'packing'),
  });
  scope.checkpoint();
  const tasks = planSearches(
    decisions.sheets,
    all.map((p) => p.length),
    { seed: decisions.seed, threads: scope.threads },
  );
  const begun = performance.now();
  const whole = Math.ceil(tasks.length / scope.threads) * seconds * 1000;
  const timer = setInterval(() => {
    const share = Math.min(1, (performance.now() - begun) / whole);
    report(0.1 + 0.9 * share, 'looking for tighter layouts');
  }, TOLD_EVERY);
  const best = new Map<number, { packed: (typeof packed)[number]; search: PackingSearch }>();
  try {
    await Promise.all(
      tasks.map(async ({ sheet, seed }) => {
        const { items, options, laid } = packingOf(
          all[sheet],
          factors[sheet],
          decisions.sheets[sheet],
          sheet,
          decisions,
        );
        const { last } = await scope.run(searchTasks.search, {
          items,
          options: { ...options, seed },
          seconds,
          cancel: scope.cancel,
        });
        if (last.scale <= (best.get(sheet)?.packed ?? packed[sheet]).scale) return;
        best.set(sheet, { packed: laid(last), search: { seed, rounds: last.rounds } });
      }),
    );
  } finally {
    clearInterval(timer);
  }
  if (scope.cancelled) throw new Cancelled();
  const sheets = withSearches(decisions.sheets, new Map([...best].map(([s, { search }]) => [s, search])));
  // At even density what one sheet has gained the others may not use.
  const now =
    decisions.scale === 'even' && best.size > 0
      ? packSheets(all, { ...decisions, sheets }, { cancelled: () => scope.cancelled })
      : packed.map((packedPlots, s) => best.get(s)?.packed ?? packedPlots);
  scope.checkpoint();
  const coverage = (of: typeof packed, s: number) => {
    const [width, height] = sheetSides(sheets[s]);
    return packedFigures({ width, height, ...of[s] }, decisions.scale)?.coverage ?? 0;
  };
  return [...new Set(tasks.map((task) => task.sheet))]
    .sort((p, q) => p - q)
    .map((s) => ({ sheet: s, before: coverage(packed, s), after: coverage(now, s), search: sheets[s].search }));
}
