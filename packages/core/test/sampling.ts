/**
 * How much is tested. `./wembrel test` takes samples, always the same ones; `./wembrel test --full` takes everything, with a new seed that it prints and that
 * `--seed N` sets again.
 */
export const FULL = process.env.WEMBREL_TEST_FULL === '1';

/** Seed of all that is random in tests, a positive integer. */
export const SEED = Number(process.env.WEMBREL_TEST_SEED ?? 1);

/** How many times a property is tried, where `full` is how many times it is tried when everything is tested. */
export const runs = (full: number): number => (FULL ? full : Math.min(full, Math.max(6, Math.ceil(full / 4))));

/**
 * Every `n`-th of a list, in its order; all of it when everything is tested.
 * @param from samples of one list with other `from` share nothing, and `n` of them are the whole list
 */
export const sampled = <T>(list: readonly T[], n: number, from = 0): T[] =>
  list.filter((_, i) => FULL || (i + SEED + from) % n === 0);

/** Seeds of damaged files, one a file; other ones where everything is tested. @param full how many there are then */
export const seeds = (full: number): number[] => Array.from({ length: runs(full) }, (_, i) => (SEED + i) % 2 ** 31);
