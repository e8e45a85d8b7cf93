import type { ChoiceRule } from './choice-rule.ts';
import type { Construction } from './construction-grid.ts';

/** How a construction is made: in which order, and how the next body is chosen. */
export interface SearchParameters {
  keys: Float64Array;
  fit: ChoiceRule | null;
  /** How the front runs, see `DrawOrder`. */
  tilt: number;
}

/** A construction that was made. */
export interface Candidate extends SearchParameters {
  construction: Construction;
  /** Area that found no room on the sheet, as a share of it, and whose it is. */
  missing: number;
  late: number[];
}

/** What a construction is compared by: how much of the sheet it fills, and more for what found no room. */
export const candidateCost = ({ construction, missing }: Candidate): number => construction.depth + 5 * missing;

/** The scale at which a construction would fill the sheet if it grew down to its end as it is. */
export const fullScale = ({ construction }: Candidate, scale: number): number =>
  scale / Math.sqrt((construction.depth + construction.end) / 2);
