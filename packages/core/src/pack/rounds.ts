import { COUNTS } from './tuning.ts';

/**
 * Rounds of search for a plan's effort: as many as the effort for few shapes, fewer for more, since a round of theirs takes longer by
 * more than their number and the first layout of many comes near to what rounds find (cube: 200 strips would take 5 s for one, and gain 0.008). So what is kept by
 * default comes within seconds, and a greater effort looks on.
 */
export function roundsFor(effort: number, shapes: number): number {
  return shapes <= COUNTS.few ? effort : Math.floor(effort * (COUNTS.few / shapes) ** 3);
}
