import type { How } from '@wembrel/core/decisions/recipe/recipe';
import type { SetPart } from './recipe-context.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import { DirectionWord, DropButton, ShareWord } from './words/MoreWords.tsx';
import { NumberWord } from './words/NumberWord.tsx';

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

const RELIEFS = [
  { value: 'mask', label: 'where it lies' },
  { value: 'height', label: 'as its own height says' },
] as const;

interface HowProps {
  value: How;
  isLook: boolean;
  set: SetPart<How>;
  open: boolean;
}

/** How what a line brings meets what is there; what is as usual is said only of the line that is selected. */
export function HowWords(props: HowProps) {
  const { value, isLook, set, open } = props;
  return (
    <>
      {(open || value.strength < 1) && (
        <>
          {', at '}
          <ShareWord
            label="Strength"
            value={value.strength}
            onChange={(strength, trial) => set({ ...value, strength }, 'Strength', trial)}
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
      <ReliefWords {...props} />
      <ShadowWords {...props} />
    </>
  );
}

function ReliefWords({ value, isLook, set, open }: HowProps) {
  const { relief } = value;
  if (!relief) return null;
  const put = (part: Partial<typeof relief>, trial?: boolean) =>
    set({ ...value, relief: { ...relief, ...part } }, 'Relief', trial);
  return (
    <>
      {', raised by '}
      <NumberWord
        label="Relief"
        unit="mm"
        value={relief.depth}
        step={0.1}
        onChange={(depth, trial) => put({ depth }, trial)}
      />
      {isLook && (open || relief.from !== 'mask') && (
        <>
          {' '}
          <ChoiceWord
            label="What the relief follows"
            value={relief.from}
            options={RELIEFS}
            onChange={(from) => put({ from })}
          />
        </>
      )}
      {open && <DropButton label="No relief" onDrop={() => set({ ...value, relief: null }, 'No relief')} />}
    </>
  );
}

function ShadowWords({ value, set, open }: HowProps) {
  const { shadow } = value;
  if (!shadow) return null;
  const put = (part: Partial<typeof shadow>, trial?: boolean) =>
    set({ ...value, shadow: { ...shadow, ...part } }, 'Shadow', trial);
  return (
    <>
      {', with a shadow of '}
      <NumberWord
        label="Length of the shadow"
        unit="mm"
        value={shadow.distance}
        min={0}
        step={0.5}
        onChange={(distance, trial) => put({ distance }, trial)}
      />{' '}
      falling{' '}
      <DirectionWord
        label="Which way the shadow falls"
        value={shadow.towards}
        onChange={(towards) => put({ towards })}
      />
      {' (soft '}
      <NumberWord
        label="Softness of the shadow"
        unit="mm"
        value={shadow.soft}
        min={0}
        step={0.5}
        onChange={(soft, trial) => put({ soft }, trial)}
      />
      {', '}
      <ShareWord
        label="Strength of the shadow"
        value={shadow.strength}
        onChange={(strength, trial) => put({ strength }, trial)}
      />
      {' dark)'}
      {open && <DropButton label="No shadow" onDrop={() => set({ ...value, shadow: null }, 'No shadow')} />}
    </>
  );
}
