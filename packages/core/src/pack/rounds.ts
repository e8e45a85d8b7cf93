import { COUNTS } from './tuning.ts';

/**
 * Rounds of search for a plan's effort: as many as the effort for few shapes, fewer for more, since a round of theirs takes longer by about the square of
 * their number and the first layout of many comes near to what rounds find. So what is kept by default comes within seconds, and a greater effort looks on.
 */
export function roundsFor(effort: number, shapes: number): number {
  return shapes <= COUNTS.few ? effort : Math.floor(effort * (COUNTS.few / shapes) ** 2);
}
