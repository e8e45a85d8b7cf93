import type { How } from '@wembrel/core/decisions/recipe/recipe';
import type { SetPart } from './recipe-context.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import { NumberWord } from './words/NumberWord.tsx';
import css from './words/Words.module.css';

const MODES: readonly { value: How['mode']; label: string }[] = [
  { value: 'replace', label: 'in place of what is there' },
  { value: 'multiply', label: 'multiplied' },
  { value: 'add', label: 'added' },
  { value: 'lighten', label: 'where it is lighter' },
  { value: 'darken', label: 'where it is darker' },
];

const NORMALS: readonly { value: How['normals']; label: string }[] = [
  { value: 'detail', label: 'its normals over the baked shape' },
  { value: 'combine', label: 'its normals on top of all' },
  { value: 'replace', label: 'its normals instead of all' },
];

/** How what a line brings meets what is there; what is as usual is said only of the line that is selected. */
export function HowWords({
  value,
  isLook,
  set,
  open,
}: {
  value: How;
  isLook: boolean;
  set: SetPart<How>;
  open: boolean;
}) {
  const { relief, shadow } = value;
  return (
    <>
      {(open || value.strength < 1) && (
        <>
          {', at '}
          <NumberWord
            label="Strength"
            unit="%"
            value={Math.round(value.strength * 100)}
            min={0}
            max={100}
            step={5}
            onChange={(v, trial) => set({ ...value, strength: v / 100 }, 'Strength', trial)}
          />
        </>
      )}
      {isLook && (open || value.mode !== 'replace') && (
        <>
          {', '}
          <ChoiceWord
            label="How it meets what is there"
            value={value.mode}
            options={MODES}
            onChange={(mode) => set({ ...value, mode }, 'How a line is laid')}
          />
        </>
      )}
      {isLook && (open || value.normals !== 'detail') && (
        <>
          {', '}
          <ChoiceWord
            label="What becomes of normals"
            value={value.normals}
            options={NORMALS}
            onChange={(normals) => set({ ...value, normals }, 'Normals of a line')}
          />
        </>
      )}
      {relief && (
        <>
          {', raised by '}
          <NumberWord
            label="Relief"
            unit="mm"
            value={relief.depth}
            step={0.1}
            onChange={(depth, trial) => set({ ...value, relief: { ...relief, depth } }, 'Relief', trial)}
          />
          {open && (
            <button
              type="button"
              className={css.drop}
              aria-label="No relief"
              onClick={() => set({ ...value, relief: null }, 'No relief')}
            >
              ×
            </button>
          )}
        </>
      )}
      {shadow && (
        <>
          {', with a shadow of '}
          <NumberWord
            label="Length of the shadow"
            unit="mm"
            value={shadow.distance}
            min={0}
            step={0.5}
            onChange={(distance, trial) => set({ ...value, shadow: { ...shadow, distance } }, 'Shadow', trial)}
          />
          {' (soft '}
          <NumberWord
            label="Softness of the shadow"
            unit="mm"
            value={shadow.soft}
            min={0}
            step={0.5}
            onChange={(soft, trial) => set({ ...value, shadow: { ...shadow, soft } }, 'Shadow', trial)}
          />
          )
          {open && (
            <button
              type="button"
              className={css.drop}
              aria-label="No shadow"
              onClick={() => set({ ...value, shadow: null }, 'No shadow')}
            >
              ×
            </button>
          )}
        </>
      )}
    </>
  );
}
