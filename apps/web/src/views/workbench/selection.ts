import { create } from 'zustand';

/** The one selection that all views share: slots, by their position in the survey's list of slots, and the model in sight. */
interface Selection {
  slots: ReadonlySet<number>;
  /** The slot under the pointer, lit everywhere. */
  hover: number | null;
  /** Position in the survey's list of models. */
  model: number;
  /** Bays on sheets, `${sheet}:${plot id}`. */
  bays: ReadonlySet<string>;
}

export const useSelection = create<Selection>(() => ({ slots: new Set(), hover: null, model: 0, bays: new Set() }));

export const setHover = (hover: number | null): void => {
  if (useSelection.getState().hover !== hover) useSelection.setState({ hover });
};

/** Selects as lists do: alone, with the modifier added or taken away. */
export function selectSlots(slots: number[], how: 'only' | 'toggle' | 'add' = 'only'): void {
  useSelection.setState((s) => {
    if (how === 'only') return { slots: new Set(slots) };
    const out = new Set(s.slots);
    for (const i of slots) {
      if (how === 'toggle' && out.has(i)) out.delete(i);
      else out.add(i);
    }
    return { slots: out };
  });
}
