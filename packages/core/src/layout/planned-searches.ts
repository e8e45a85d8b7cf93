import type { PackingSearch, SheetDecision } from '../decisions/sheets.ts';
import { hasWholeBays } from './whole-bays.ts';

/** Which sheet a thread looks for, by position, and with which seed. */
export interface PlannedSearch {
  sheet: number;
  seed: number;
}

/** Rounds of continued search: more than anybody waits for. */
export const ENDLESS = 100_000;

/** Sheets that note how tighter layouts of some, by position, are found again. */
export const withSearches = (
  sheets: readonly SheetDecision[],
  found: ReadonlyMap<number, PackingSearch | null>,
): SheetDecision[] => sheets.map((sheet, i) => ({ ...sheet, search: found.get(i) ?? sheet.search }));

const GREATEST_SEED = 0x7fffffff;

export interface SearchPlan {
  seed: number;
  threads: number;
  first?: number;
  used?: number;
}

/**
 * What threads do that keep searching for tighter layouts: they go to the sheets with islands in turn, at least one to each. The first of a sheet goes
 * on with the seed that it was found with, so that more rounds may better it; others take seeds that nobody had.
 * @param islands how many each sheet holds @param seed of the plan @param threads that work at one time
 * @param first position of the sheet that gets the most of them @param used the greatest seed that has been tried elsewhere
 */
export function planSearches(
  sheets: readonly SheetDecision[],
  islands: readonly number[],
  { seed, threads, first = 0, used = 0 }: SearchPlan,
): PlannedSearch[] {
  const open = [first, ...sheets.map((_, s) => s).filter((s) => s !== first)].filter(
    (s) => islands[s] > 0 && !hasWholeBays(sheets[s]),
  );
  if (open.length === 0) return [];
  let last = Math.max(used, seed, ...sheets.map((sheet) => sheet.search?.seed ?? 0));
  const fresh = () => {
    last = last >= GREATEST_SEED ? 0 : last + 1;
    return last;
  };
  return Array.from({ length: Math.max(threads, open.length) }, (_, k) => ({
    sheet: open[k % open.length],
    seed: k < open.length ? (sheets[open[k]].search?.seed ?? seed) : fresh(),
  }));
}
