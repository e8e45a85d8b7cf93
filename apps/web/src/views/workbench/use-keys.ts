import { useHotkeys } from 'react-hotkeys-hook';
import { VIEWS, type ViewName } from '../../project/stages.ts';

export interface KeyMeans {
  step: (way: 'undo' | 'redo') => void;
  go: (view: ViewName) => void;
  onFind: () => void;
  onHelp: () => void;
}

/** Parts that have the focus without being typed into; the library would count them as forms. */
const ENABLED_ON = ['option', 'radio', 'slider', 'menuitem', 'menuitemcheckbox', 'menuitemradio'] as const;
const HELD = { preventDefault: true, enableOnFormTags: ENABLED_ON };

/** The keys that work in every view; while somebody types, only the finder's. */
export function useKeys({ step, go, onFind, onHelp }: KeyMeans): void {
  useHotkeys('mod+z', () => step('undo'), HELD, [step]);
  useHotkeys('mod+shift+z, mod+y', () => step('redo'), HELD, [step]);
  useHotkeys('mod+k', onFind, { ...HELD, enableOnFormTags: true, enableOnContentEditable: true }, [onFind]);
  // The sign, not the key: it stands elsewhere on every keyboard.
  useHotkeys('?', onHelp, { ...HELD, useKey: true }, [onHelp]);
  useHotkeys(
    VIEWS.map((_, i) => `alt+${i + 1}`).join(', '),
    (event) => go(VIEWS[Number(event.code.at(-1)) - 1]),
    HELD,
    [go],
  );
}
