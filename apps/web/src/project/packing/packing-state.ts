import type { PackedSheet } from '../../contract/plots.ts';

/** What packing has come to. */
export interface PackingState {
  /** What the sheets were packed for. */
  key: string;
  sheets: PackedSheet[] | null;
  /** What there is to see of each sheet while all are packed for the first time. */
  early: readonly (PackedSheet | null)[];
  /** 0 … 1 while it packs, else null. */
  share: number | null;
  seconds: number;
  problem: string | null;
}

export const NOTHING_PACKED: PackingState = {
  key: '',
  sheets: null,
  early: [],
  share: null,
  seconds: 0,
  problem: null,
};

export type PackingEvent =
  | { type: 'begun' }
  | { type: 'progress'; share: number }
  /** A layout of one of so many sheets, tighter than the one before; `seconds` since packing began. */
  | { type: 'better'; count: number; index: number; sheet: PackedSheet; seconds: number }
  /** Islands of one of so many sheets in rows, before they are packed. */
  | { type: 'inRows'; count: number; index: number; sheet: PackedSheet }
  | { type: 'done'; key: string; sheets: PackedSheet[]; seconds: number }
  | { type: 'failed'; problem: string }
  /** Tighter layouts of a continued search. */
  | { type: 'found'; sheets: PackedSheet[]; seconds: number }
  | { type: 'searchFailed'; problem: string }
  /** What was found is noted in the plan, which has another key then. */
  | { type: 'noted'; key: string };

export function nextPacking(state: PackingState, event: PackingEvent): PackingState {
  switch (event.type) {
    case 'begun':
      return { ...state, share: 0, problem: null };
    case 'progress':
      return { ...state, share: event.share };
    case 'better':
      if (state.sheets?.length === event.count)
        return { ...state, sheets: state.sheets.with(event.index, event.sheet), seconds: event.seconds };
      return { ...state, early: withEarly(state.early, event), seconds: event.seconds };
    case 'inRows':
      // Never in the place of a layout.
      if (state.sheets?.length === event.count || state.early[event.index]) return state;
      return { ...state, early: withEarly(state.early, event) };
    case 'done':
      return { key: event.key, sheets: event.sheets, early: [], share: null, seconds: event.seconds, problem: null };
    case 'failed':
      return { ...state, early: [], share: null, problem: event.problem };
    case 'found':
      return { ...state, sheets: event.sheets, seconds: event.seconds };
    case 'searchFailed':
      return { ...state, problem: event.problem };
    case 'noted':
      return { ...state, key: event.key };
  }
}

const withEarly = (
  early: PackingState['early'],
  { count, index, sheet }: { count: number; index: number; sheet: PackedSheet },
): PackingState['early'] => Array.from({ length: count }, (_, i) => (i === index ? sheet : (early[i] ?? null)));
