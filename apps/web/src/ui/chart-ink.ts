import { useMemo, useSyncExternalStore } from 'react';
import { tokenColour } from './Chart.tsx';

/** Type of all charts. */
export const TYPE = { fontFamily: 'Spline Sans, system-ui, sans-serif', fontSize: 12 };

const watchTheme = (changed: () => void) => {
  const o = new MutationObserver(changed);
  o.observe(document.documentElement, { attributeFilter: ['data-theme'] });
  return () => o.disconnect();
};

/** Charts take the colours of the theme, so they are made again with it. */
export function useInk() {
  const theme = useSyncExternalStore(watchTheme, () => document.documentElement.dataset.theme ?? 'light');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the tokens change with the theme
  return useMemo(
    () => ({
      ink: tokenColour('ink'),
      ink2: tokenColour('ink-2'),
      rule: tokenColour('rule'),
      paper: tokenColour('paper'),
      accent: tokenColour('accent'),
      fault: tokenColour('fault'),
      quiet: tokenColour('rule-strong'),
    }),
    [theme],
  );
}

/** How tips of charts look. */
export const tip = (ink: ReturnType<typeof useInk>) => ({
  backgroundColor: ink.paper,
  borderColor: ink.quiet,
  borderRadius: 0,
  textStyle: { ...TYPE, color: ink.ink },
  extraCssText: 'box-shadow:none',
});
