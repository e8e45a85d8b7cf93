import { create } from 'zustand';
import type { SurveyView } from '../contract/project.ts';

/** The one selection that all views share: slots, by their position in the survey's list of slots, and the model in sight. */
interface Selection {
  slots: ReadonlySet<number>;
  /** The slot under the pointer, lit everywhere. */
  hover: number | null;
  /** Position in the survey's list of models; null until one is chosen. */
  model: number | null;
  /** Bays on sheets, `${sheet}:${plot id}`. */
  bays: ReadonlySet<string>;
  /** Slots that are not shown, and models that are not on the shelf. */
  hidden: { slots: ReadonlySet<number>; models: ReadonlySet<number> };
}

const NOTHING_HIDDEN: Selection['hidden'] = { slots: new Set(), models: new Set() };

export const useSelection = create<Selection>(() => ({
  slots: new Set(),
  hover: null,
  model: null,
  bays: new Set(),
  hidden: NOTHING_HIDDEN,
}));

export const setHover = (hover: number | null): void => {
  if (useSelection.getState().hover !== hover) useSelection.setState({ hover });
};

/** Selects as lists do: alone, with the modifier added or taken away. */
export function selectSlots(slots: number[], how: 'only' | 'toggle' | 'add' = 'only'): void {
  useSelection.setState((selection) => {
    if (how === 'only') return { slots: new Set(slots) };
    const out = new Set(selection.slots);
    for (const i of slots) {
      if (how === 'toggle' && out.has(i)) out.delete(i);
      else out.add(i);
    }
    return { slots: out };
  });
}

/** The model in sight: the chosen one, else the one that takes most draw calls. */
export function useModel(survey: SurveyView | null | undefined): number {
  const chosen = useSelection((selection) => selection.model);
  if (!survey) return 0;
  if (chosen !== null && chosen < survey.models.length) return chosen;
  const calls = new Map(survey.files.map((file) => [file.path, file.drawCalls]));
  let best = 0;
  survey.models.forEach((model, i) => {
    if ((calls.get(model.path) ?? 0) > (calls.get(survey.models[best].path) ?? 0)) best = i;
  });
  return best;
}

/** Hides the selected slots, or, with none selected, the model in sight. */
export function hideSelected(model: number): void {
  useSelection.setState(({ slots, hidden }) =>
    slots.size > 0
      ? { hidden: { ...hidden, slots: new Set([...hidden.slots, ...slots]) }, slots: new Set() }
      : { hidden: { ...hidden, models: new Set([...hidden.models, model]) } },
  );
}

/** Shows the selected slots and their models alone, or, with none selected, the model in sight. */
export function showOnlySelected(survey: SurveyView, model: number): void {
  const { slots } = useSelection.getState();
  const kept = new Set(slots.size > 0 ? [...slots].map((i) => survey.slots[i].model) : [model]);
  const others = (n: number, keep: (i: number) => boolean) =>
    new Set(Array.from({ length: n }, (_, i) => i).filter((i) => !keep(i)));
  useSelection.setState({
    hidden: {
      slots: slots.size > 0 ? others(survey.slots.length, (i) => slots.has(i)) : new Set(),
      models: others(survey.models.length, (i) => kept.has(i)),
    },
  });
}

export const showAll = (): void => useSelection.setState({ hidden: NOTHING_HIDDEN });
