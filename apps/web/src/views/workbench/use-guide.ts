import { create } from 'zustand';

/** Where it is kept that somebody wants no guide. */
const GUIDE_KEY = 'wembrel-guide';

interface Guide {
  on: boolean;
  dismiss: () => void;
  show: () => void;
}

/** Whether the guide is shown; remembered for all projects. */
export const useGuide = create<Guide>((set) => ({
  on: globalThis.localStorage?.getItem(GUIDE_KEY) !== 'off',
  dismiss: () => {
    localStorage.setItem(GUIDE_KEY, 'off');
    set({ on: false });
  },
  show: () => {
    localStorage.removeItem(GUIDE_KEY);
    set({ on: true });
  },
}));
