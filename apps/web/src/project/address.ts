import { useCallback, useEffect, useSyncExternalStore } from 'react';
import { useSelection } from './selection.ts';
import { isViewName, type ViewName } from './stages.ts';

/** What every view has in its address, so that it goes along from one to the next. */
const SHARED = ['model', 'slots'] as const;

/** Slots that are named in an address; of more than that none is. */
const MOST_SLOTS = 60;

const listeners = new Set<() => void>();
/** What stood in the address of each view when it was left. */
const left = new Map<ViewName, string>();

/** The query of an address with one value changed; null takes it out. */
export function withValue(query: string, key: string, value: string | null): string {
  const params = new URLSearchParams(query);
  if (value === null) params.delete(key);
  else params.set(key, value);
  const text = params.toString();
  return text === '' ? '' : `?${text}`;
}

/** The query with which a view is gone to: its own as it was left, with what all views share as it is now. */
export function queryFor(own: string, now: string): string {
  const shared = new URLSearchParams(now);
  return SHARED.reduce((query, key) => withValue(query, key, shared.get(key)), own);
}

const here = (): ViewName | null => {
  const name = window.location.pathname.split('/')[3];
  return isViewName(name) ? name : null;
};

const tell = () => {
  for (const listener of listeners) listener();
};

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  window.addEventListener('popstate', listener);
  return () => {
    listeners.delete(listener);
    window.removeEventListener('popstate', listener);
  };
}

/** Goes to a view of a project, as it was left. */
export function goTo(project: string, view: ViewName): void {
  const from = here();
  if (from) left.set(from, window.location.search);
  window.history.pushState(null, '', `/p/${project}/${view}${queryFor(left.get(view) ?? '', window.location.search)}`);
  tell();
}

/** Sets a value in the address of a view, of the one in sight or of one that is gone to later. */
export function setAddress(view: ViewName, key: string, value: string | null): void {
  if (here() !== view) {
    left.set(view, withValue(left.get(view) ?? '', key, value));
    return;
  }
  const query = withValue(window.location.search, key, value);
  if (query === window.location.search) return;
  window.history.pushState(null, '', window.location.pathname + query);
  tell();
}

/** The view in sight, in step with the address. */
export const useViewName = (first: ViewName): ViewName => useSyncExternalStore(subscribe, () => here() ?? first);

/**
 * A choice that stands in the address, so that back and forward work and a link shows the same.
 * @param first what holds where the address says nothing, or nothing that may be chosen
 */
export function useAddress<T extends string>(
  view: ViewName,
  key: string,
  allowed: readonly T[],
  first: T,
): [T, (value: T) => void] {
  const text = useSyncExternalStore(subscribe, () => new URLSearchParams(window.location.search).get(key));
  const value = allowed.find((one) => one === text) ?? first;
  const set = useCallback((next: T) => setAddress(view, key, next === first ? null : next), [view, key, first]);
  return [value, set];
}

/** A name that stands in the address; null where it says none. */
export function useViewValue(view: ViewName, key: string): [string | null, (value: string | null) => void] {
  const text = useSyncExternalStore(subscribe, () => new URLSearchParams(window.location.search).get(key));
  const set = useCallback((next: string | null) => setAddress(view, key, next), [view, key]);
  return [text, set];
}

/** Whole numbers from 0 on, apart by commas. */
export const numbersOf = (text: string | null): number[] =>
  (text ?? '').split(',').flatMap((part) => (/^\d{1,6}$/.test(part) ? [Number(part)] : []));

/** Keeps the chosen model and the selected slots in the address; they change it without a step of their own. */
export function useSelectionInAddress(slotCount: number, modelCount: number): void {
  useEffect(() => {
    if (modelCount === 0) return;
    const read = () => {
      const params = new URLSearchParams(window.location.search);
      const [model = null] = numbersOf(params.get('model')).filter((m) => m < modelCount);
      const slots = numbersOf(params.get('slots')).filter((s) => s < slotCount);
      useSelection.setState({ model, slots: new Set(slots) });
    };
    read();
    const stop = useSelection.subscribe(({ model, slots }, before) => {
      if (model === before.model && slots === before.slots) return;
      const named = slots.size > 0 && slots.size <= MOST_SLOTS ? [...slots].sort((a, b) => a - b).join(',') : null;
      const query = withValue(
        withValue(window.location.search, 'model', model === null ? null : String(model)),
        'slots',
        named,
      );
      if (query !== window.location.search) window.history.replaceState(null, '', window.location.pathname + query);
    });
    window.addEventListener('popstate', read);
    return () => {
      stop();
      window.removeEventListener('popstate', read);
    };
  }, [slotCount, modelCount]);
}
