import type { Condition, SingleCondition } from '@wembrel/core/decisions/recipe/condition';
import type { MeasuredCondition } from '@wembrel/core/recipes/conditions/measure';
import { asksModel } from '@wembrel/core/recipes/inputs/needs';
import { Fragment } from 'react';
import { type SetPart, useNames } from './recipe-context.ts';
import { CONDITIONS, type ConditionKind, MEASURES, newCondition } from './recipe-options.ts';
import { StretchWords } from './StretchWords.tsx';
import { AddWord, ChoiceWord } from './words/ChoiceWord.tsx';
import { NumberWord } from './words/NumberWord.tsx';
import { NamesWord, TextWord } from './words/TextWord.tsx';
import css from './words/Words.module.css';

interface WhereProps<T extends Condition> {
  value: T;
  set: SetPart<Condition>;
  /** Takes it away; null where nothing would be left. */
  drop: (() => void) | null;
  /** The line is selected: what can be taken away or added is shown. */
  open: boolean;
}

/** A condition, as the end of a sentence. */
export function WhereWords({ value, set, drop, open }: WhereProps<Condition>) {
  if ('use' in value) return <UseWords value={value} set={set} drop={drop} open={open} />;
  if ('not' in value)
    return (
      <>
        not{' '}
        <WhereWords value={value.not} set={(not, label, trial) => set({ not }, label, trial)} drop={drop} open={open} />
      </>
    );
  if ('all' in value || 'any' in value) {
    const list = 'all' in value ? value.all : value.any;
    const word = 'all' in value ? 'and' : 'or';
    const rebuilt = (next: Condition[]): Condition =>
      next.length === 1 ? next[0] : 'all' in value ? { ...value, all: next } : { any: next };
    return (
      <>
        {list.map((one, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: conditions have no other name than their place
          <Fragment key={i}>
            {i > 0 && (open ? <JoinWord value={value} list={list} set={set} /> : ` ${word} `)}
            {'all' in one || 'any' in one ? '(' : ''}
            <WhereWords
              value={one}
              set={(next, label, trial) => set(rebuilt(list.map((v, k) => (k === i ? next : v))), label, trial)}
              drop={() => set(rebuilt(list.filter((_, k) => k !== i)), 'Remove a condition')}
              open={open}
            />
            {'all' in one || 'any' in one ? ')' : ''}
          </Fragment>
        ))}
      </>
    );
  }
  return (
    <>
      <SingleWords value={value} set={set} drop={drop} open={open} />
      {open && (
        <>
          <button
            type="button"
            className={css.drop}
            title="The opposite"
            aria-label="The opposite of this condition"
            onClick={() => set({ not: value }, 'The opposite of a condition')}
          >
            ¬
          </button>
          {drop && (
            <button
              type="button"
              className={css.drop}
              title="Remove this condition"
              aria-label="Remove this condition"
              onClick={drop}
            >
              ×
            </button>
          )}
        </>
      )}
    </>
  );
}

/** All of them or any of them. */
function JoinWord({ value, list, set }: { value: Condition; list: Condition[]; set: SetPart<Condition> }) {
  return (
    <>
      {' '}
      <ChoiceWord
        label="All of these conditions, or any of them"
        value={'all' in value ? (value.by === 'least' ? 'least' : 'and') : 'or'}
        options={[
          { value: 'and', label: 'and' },
          { value: 'least', label: 'and (the least)' },
          { value: 'or', label: 'or' },
        ]}
        onChange={(join) =>
          set(
            join === 'or' ? { any: list } : { all: list, by: join === 'least' ? 'least' : 'product' },
            join === 'or' ? 'Any of the conditions' : 'All of the conditions',
          )
        }
      />{' '}
    </>
  );
}

function UseWords({ value, set, drop, open }: WhereProps<{ use: string }>) {
  const { shared } = useNames();
  return (
    <>
      where{' '}
      <ChoiceWord
        label="Shared condition"
        value={value.use}
        options={shared.map((name) => ({ value: name, label: `“${name}”` }))}
        onChange={(use) => set({ use }, 'Another shared condition')}
      />{' '}
      holds
      {open && drop && (
        <button type="button" className={css.drop} aria-label="Remove this condition" onClick={drop}>
          ×
        </button>
      )}
    </>
  );
}

function SingleWords({ value, set, open }: WhereProps<SingleCondition>) {
  const names = useNames();
  const part = <K extends SingleCondition>(more: Partial<K>, label: string, trial?: boolean) =>
    set({ ...value, ...more } as SingleCondition, label, trial);
  switch (value.of) {
    case 'slot':
    case 'part':
    case 'group':
    case 'model': {
      const known = value.of === 'slot' ? names.slots : value.of === 'part' ? names.parts : names.groups;
      const word = { slot: 'on slot', part: 'on part', group: 'in face group', model: 'on model' }[value.of];
      return (
        <>
          {word}{' '}
          <NamesWord
            label={`Names, apart by commas; * stands for any letters`}
            value={value.names}
            known={known}
            onChange={(list) => part({ names: list }, `Condition ${word}`)}
          />
        </>
      );
    }
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

type Of<K extends ConditionKind> = Extract<SingleCondition, { of: K }>;

function IdWords({ value, set, open }: { value: Of<'id'>; set: SetPart<Condition>; open: boolean }) {
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
              points: value.points.map((p) => ({ ...p, radius: Number(((p.radius * to) / radius).toPrecision(4)) })),
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

/** Adds a condition to a line. */
export function AddCondition({ label, onAdd }: { label: string; onAdd: (condition: SingleCondition) => void }) {
  const { cell } = useNames();
  const offered = cell ? CONDITIONS.filter(({ of }) => !asksModel(of)) : CONDITIONS;
  return (
    <AddWord
      label={label}
      options={offered.map(({ of, label: text }) => ({ value: of, label: text }))}
      onAdd={(of) => onAdd(newCondition(of))}
    />
  );
}
