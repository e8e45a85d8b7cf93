import type { MeasuredCondition } from '@wembrel/core/recipes/conditions/measure';
import { useNames } from '../recipe-context.ts';
import { MEASURES } from '../recipe-options.ts';
import { ChoiceWord } from '../words/ChoiceWord.tsx';
import { DropButton, PutButton, SeedWord } from '../words/MoreWords.tsx';
import { NumberWord } from '../words/NumberWord.tsx';
import { TextWord } from '../words/TextWord.tsx';
import type { Of, SingleProps } from './single-props.ts';

/** What is measured, but for heights and directions. */
export function MeasureWords({
  value,
  set,
  open,
}: SingleProps<Exclude<MeasuredCondition, { of: 'position' | 'facing' }>>) {
  const names = useNames();
  if (value.of === 'noise')
    return (
      <>
        where{' '}
        <ChoiceWord
          label="Kind of noise"
          value={value.kind}
          options={[
            { value: 'value', label: 'soft noise' },
            { value: 'ridged', label: 'ridged noise' },
            { value: 'cellular', label: 'cells' },
          ]}
          onChange={(kind) => set({ ...value, kind }, 'Kind of noise')}
        />{' '}
        of{' '}
        <NumberWord
          label="Size of the noise"
          unit="mm"
          value={value.size}
          min={0.1}
          step={5}
          onChange={(size, trial) => set({ ...value, size }, 'Size of noise', trial)}
        />
        {open && (
          <>
            {' in '}
            <NumberWord
              label="Layers of noise, each half as large"
              value={value.layers}
              min={1}
              max={8}
              onChange={(layers, trial) => set({ ...value, layers: Math.round(layers) }, 'Layers of noise', trial)}
            />{' '}
            layers
          </>
        )}{' '}
        <SeedWord value={value.seed} onChange={(seed, trial) => set({ ...value, seed }, 'Seed', trial)} /> is
      </>
    );
  if (value.of === 'random')
    return (
      <>
        where the chance of each{' '}
        <ChoiceWord
          label="Chance of each"
          value={value.per}
          options={(['part', 'island', 'model'] as const).map((v) => ({ value: v, label: v }))}
          onChange={(per) => set({ ...value, per }, 'Chance of each')}
        />{' '}
        <SeedWord value={value.seed} onChange={(seed, trial) => set({ ...value, seed }, 'Seed', trial)} /> is
      </>
    );
  if (value.of === 'mask')
    return (
      <>
        where the{' '}
        <ChoiceWord
          label="Channel of the mask"
          value={value.channel}
          options={(['red', 'green', 'blue', 'alpha'] as const).map((v) => ({ value: v, label: v }))}
          onChange={(channel) => set({ ...value, channel }, 'Channel of a mask')}
        />{' '}
        of{' '}
        <TextWord
          label="Mask picture"
          value={value.picture}
          known={names.pictures}
          onChange={(picture) => set({ ...value, picture }, 'Mask picture')}
        />
        {(open || value.metres !== null) && <MaskSize value={value} set={set} />} is
      </>
    );
  return <>where {MEASURES[value.of]?.word ?? value.of} is</>;
}

/** Whether a mask lies on the UVs, or repeats through space. */
function MaskSize({ value, set }: Omit<SingleProps<Of<'mask'>>, 'open'>) {
  if (value.metres === null)
    return (
      <>
        {' '}
        <PutButton text="on the UVs" onPut={() => set({ ...value, metres: 1 }, 'How a mask lies')} />
      </>
    );
  return (
    <>
      {' as a box, '}
      <NumberWord
        label="Size of a repeat of the mask"
        unit="m"
        value={value.metres}
        min={0.001}
        step={0.05}
        onChange={(metres, trial) => set({ ...value, metres }, 'Size of a mask', trial)}
      />{' '}
      a repeat
      <DropButton label="On the UVs" onDrop={() => set({ ...value, metres: null }, 'How a mask lies')} />
    </>
  );
}
