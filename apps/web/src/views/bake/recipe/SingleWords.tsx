import { fitsPattern } from '@wembrel/core/decisions/patterns';
import type { Condition, SingleCondition } from '@wembrel/core/decisions/recipe/condition';
import type { MeasuredCondition } from '@wembrel/core/recipes/conditions/measure';
import { type SetPart, useNames } from './recipe-context.ts';
import { type ConditionKind, MEASURES } from './recipe-options.ts';
import { StretchWords } from './StretchWords.tsx';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import { NumberWord } from './words/NumberWord.tsx';
import { NamesWord, TextWord } from './words/TextWord.tsx';

type Of<K extends ConditionKind> = Extract<SingleCondition, { of: K }>;

interface SingleProps<T extends SingleCondition> {
  value: T;
  set: SetPart<Condition>;
  /** The line is selected: what is as usual is said as well. */
  open: boolean;
}

/** One condition by itself. */
export function SingleWords({ value, set, open }: SingleProps<SingleCondition>) {
  switch (value.of) {
    case 'slot':
    case 'part':
    case 'group':
    case 'model':
      return <NamedWords value={value} set={set} open={open} />;
    case 'id':
      return <IdWords value={value} set={set} open={open} />;
    case 'island':
      return <>on {value.at.length === 1 ? 'one island' : `${value.at.length} islands`}</>;
    case 'strokes':
      return <StrokeWords value={value} set={set} />;
    case 'position':
      return (
        <>
          <PositionWords value={value} set={set} /> <StretchWords value={value} set={set} open={open} />
        </>
      );
    case 'facing':
      return (
        <>
          where the angle to <FacingWord value={value} set={set} />
          {' is '}
          <StretchWords value={value} set={set} open={open} />
        </>
      );
    default:
      return (
        <>
          <MeasureWords value={value} set={set} /> <StretchWords value={value} set={set} open={open} />
        </>
      );
  }
}

type Named = Extract<SingleCondition, { names: string[]; of: 'slot' | 'part' | 'model' | 'group' }>;

function NamedWords({ value, set, open }: SingleProps<Named>) {
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

function IdWords({ value, set, open }: SingleProps<Of<'id'>>) {
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

function StrokeWords({ value, set }: { value: Of<'strokes'>; set: SetPart<Condition> }) {
  const radius = value.points.at(-1)?.radius ?? 20;
  return (
    <>
      on {value.points.length === 1 ? 'one marked point' : `${value.points.length} marked points`}, radius{' '}
      <NumberWord
        label="Radius of the marked places"
        unit="mm"
        value={radius}
        min={0.1}
        step={1}
        onChange={(to, trial) =>
          set(
            {
              ...value,
              points: value.points.map((point) => ({
                ...point,
                radius: Number(((point.radius * to) / radius).toPrecision(4)),
              })),
            },
            'Radius of marked places',
            trial,
          )
        }
      />
      , fading over{' '}
      <NumberWord
        label="Share of the radius that fades"
        unit="%"
        value={Math.round(value.falloff * 100)}
        min={0}
        max={100}
        step={5}
        onChange={(v, trial) => set({ ...value, falloff: v / 100 }, 'Falloff of marked places', trial)}
      />
      {', '}
      <ChoiceWord
        label="Mirrored across"
        value={value.mirror.join('')}
        options={[
          { value: '', label: 'not mirrored' },
          ...['x', 'y', 'z', 'xz', 'xyz'].map((axes) => ({
            value: axes,
            label: `mirrored across ${axes.toUpperCase().split('').join(' and ')}`,
          })),
        ]}
        onChange={(axes) =>
          set({ ...value, mirror: axes.split('') as ('x' | 'y' | 'z')[] }, 'Symmetry of marked places')
        }
      />
    </>
  );
}

const AXES = [
  { value: 'y', label: 'height' },
  { value: 'x', label: 'place along X' },
  { value: 'z', label: 'place along Z' },
] as const;

function PositionWords({ value, set }: { value: Of<'position'>; set: SetPart<Condition> }) {
  const within = `${value.within} ${value.unit} ${value.end}`;
  return (
    <>
      where the{' '}
      <ChoiceWord
        label="Along which axis"
        value={value.axis}
        options={AXES}
        onChange={(axis) => set({ ...value, axis }, 'Axis of a place')}
      />{' '}
      <ChoiceWord
        label="Measured from"
        value={within}
        options={[
          { value: 'model share low', label: 'in the model, as a share,' },
          { value: 'model mm low', label: 'above the model’s foot' },
          { value: 'model mm high', label: 'below the model’s top' },
          { value: 'part share low', label: 'in each part, as a share,' },
          { value: 'part mm low', label: 'above each part’s foot' },
          { value: 'part mm high', label: 'below each part’s top' },
          { value: 'world mm low', label: 'above the ground' },
        ]}
        onChange={(text) => {
          const [to, unit, end] = text.split(' ') as [
            Of<'position'>['within'],
            Of<'position'>['unit'],
            Of<'position'>['end'],
          ];
          const scale = unit === value.unit ? 1 : unit === 'mm' ? 1000 : 0.001;
          const scaled = (v: number | null) => (v === null ? null : Number((v * scale).toPrecision(4)));
          set(
            {
              ...value,
              within: to,
              unit,
              end,
              from: scaled(value.from),
              to: scaled(value.to),
              soft: scaled(value.soft) ?? 0,
            },
            'How a place is measured',
          );
        }}
      />
    </>
  );
}

const WAYS: readonly { value: string; label: string }[] = [
  { value: '0 1 0', label: 'up' },
  { value: '0 -1 0', label: 'down' },
  { value: '1 0 0', label: '+X' },
  { value: '-1 0 0', label: '−X' },
  { value: '0 0 1', label: '+Z' },
  { value: '0 0 -1', label: '−Z' },
];

function FacingWord({ value, set }: { value: Of<'facing'>; set: SetPart<Condition> }) {
  const own = value.direction.map((v) => Number(v.toFixed(2))).join(' ');
  const options = WAYS.some((way) => way.value === own) ? WAYS : [...WAYS, { value: own, label: `along ${own}` }];
  return (
    <ChoiceWord
      label="Which way"
      value={own}
      options={options}
      onChange={(text) =>
        set({ ...value, direction: text.split(' ').map(Number) as [number, number, number] }, 'Which way it faces')
      }
    />
  );
}

function MeasureWords({
  value,
  set,
}: {
  value: Exclude<MeasuredCondition, { of: 'position' | 'facing' }>;
  set: SetPart<Condition>;
}) {
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
        />{' '}
        (seed{' '}
        <NumberWord
          label="Seed"
          value={value.seed}
          min={0}
          max={9999}
          onChange={(seed, trial) => set({ ...value, seed }, 'Seed', trial)}
        />
        ) is
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
        (seed{' '}
        <NumberWord
          label="Seed"
          value={value.seed}
          min={0}
          max={9999}
          onChange={(seed, trial) => set({ ...value, seed }, 'Seed', trial)}
        />
        ) is
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
        />{' '}
        is
      </>
    );
  return <>where {MEASURES[value.of]?.word ?? value.of} is</>;
}
