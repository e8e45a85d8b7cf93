import { fitsPattern } from '@wembrel/core/decisions/patterns';
import type { SingleCondition } from '@wembrel/core/decisions/recipe/condition';
import { useNames } from '../recipe-context.ts';
import { NumberWord } from '../words/NumberWord.tsx';
import { NamesWord, TextWord } from '../words/TextWord.tsx';
import type { Of, SingleProps } from './single-props.ts';

type Named = Extract<SingleCondition, { names: string[]; of: 'slot' | 'part' | 'model' | 'group' }>;

/** On slots, parts, face groups or models by name. */
export function NamedWords({ value, set, open }: SingleProps<Named>) {
  const names = useNames();
  const word = { slot: 'on slot', part: 'on part', group: 'in face group', model: 'on model' }[value.of];
  const known = { slot: names.slots, part: names.parts, group: names.groups, model: null }[value.of];
  const fits = known?.filter((name) => value.names.some((pattern) => fitsPattern(name, pattern)));
  return (
    <>
      {word}{' '}
      <NamesWord
        label="Names, apart by commas; * stands for any letters"
        value={value.names}
        known={known ?? []}
        onChange={(list) => set({ ...value, names: list }, `Condition ${word}`)}
      />
      {open && known && fits && (
        <span title={fits.join('\n')}>
          {' '}
          ({fits.length} of {known.length} here)
        </span>
      )}
    </>
  );
}

/** On IDs, by name or by colour. */
export function IdWords({ value, set, open }: SingleProps<Of<'id'>>) {
  const names = useNames();
  const { picture, colours } = value;
  return (
    <>
      on ID{' '}
      {picture === null && colours.length === 0 ? (
        <NamesWord
          label="Names of IDs, apart by commas"
          value={value.names}
          known={names.ids}
          onChange={(list) => set({ ...value, names: list }, 'IDs of a condition')}
        />
      ) : (
        <NamesWord
          label="Colours of IDs, #rrggbb, apart by commas"
          value={colours}
          onChange={(list) =>
            set({ ...value, colours: list.filter((c) => /^#[0-9a-f]{6}$/i.test(c)) }, 'IDs of a condition')
          }
        />
      )}
      {picture !== null && (
        <>
          {' of '}
          <TextWord
            label="Picture of IDs"
            value={picture}
            known={names.pictures}
            onChange={(p) => set({ ...value, picture: p }, 'Picture of IDs')}
          />
        </>
      )}
      {(open || value.soft > 0) && (
        <>
          {', soft '}
          <NumberWord
            label="Width of the soft border"
            unit="mm"
            value={value.soft}
            min={0}
            step={0.5}
            onChange={(soft, trial) => set({ ...value, soft }, 'Border of an ID', trial)}
          />
        </>
      )}
    </>
  );
}
