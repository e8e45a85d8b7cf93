import type { PairingDecision } from '@wembrel/core/decisions/ray-decisions';
import type { RaySheetView, ReachesView } from '../../../contract/project.ts';
import type { ProjectObject } from './pairing-objects.ts';

/** What the list of pairings shows, and what is done to them. */
export interface PairingListProps {
  pairings: readonly PairingDecision[];
  objects: readonly ProjectObject[];
  alone: readonly ProjectObject[];
  /** What the newest bake says of each, by name. */
  baked: ReadonlyMap<string, RaySheetView['pairings'][number]>;
  /** What else the high-polys of a pairing fit nearly as well, by its name. */
  doubts: ReadonlyMap<string, string[]>;
  stale: boolean;
  reaches: ReachesView | undefined;
  chosen: number;
  choose: (i: number) => void;
  change: (label: string, i: number, next: PairingDecision) => void;
  remove: (i: number) => void;
  make: () => void;
  /** Bakes a proof of one alone; null while something is being baked. */
  prove: ((name: string) => void) | null;
  byNames: (() => void) | null;
  byPlace: (() => void) | null;
}
