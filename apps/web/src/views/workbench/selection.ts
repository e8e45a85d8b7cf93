import { create } from 'zustand';
import type { SurveyView } from '../../contract/project.ts';

/** The one selection that all views share: slots, by their position in the survey's list of slots, and the model in sight. */
interface Selection {
  slots: ReadonlySet<number>;
  /** The slot under the pointer, lit everywhere. */
  hover: number | null;
  /** Position in the survey's list of models; null until one is chosen. */
  model: number | null;
  /** Bays on sheets, `${sheet}:${plot id}`. */
  bays: ReadonlySet<string>;
}

export const useSelection = create<Selection>(() => ({ slots: new Set(), hover: null, model: null, bays: new Set() }));

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

/** The model in sight: the chosen one, else the one that takes most draw calls. */
export function useModel(survey: SurveyView | null | undefined): number {
  const chosen = useSelection((s) => s.model);
  if (!survey) return 0;
  if (chosen !== null && chosen < survey.models.length) return chosen;
  const calls = new Map(survey.files.map((f) => [f.path, f.drawCalls]));
  let best = 0;
  survey.models.forEach((m, i) => {
    if ((calls.get(m.path) ?? 0) > (calls.get(survey.models[best].path) ?? 0)) best = i;
  });
  return best;
}
