import { PLANNED_PICTURE } from '@wembrel/core/decisions/planned-surface';
import type { LookSource } from '@wembrel/core/decisions/recipe/look';
import { type SetPart, useNames } from './recipe-context.ts';
import { STOCK_WORDS } from './recipe-options.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import { ColourWord } from './words/ColourWord.tsx';
import { NumberWord } from './words/NumberWord.tsx';
import { TextWord } from './words/TextWord.tsx';
import css from './words/Words.module.css';

const SLOT = 'slot ';

/** Which option a look is. */
function optionOf(value: LookSource): string {
  if (value.from === 'stock') return value.look;
  if (value.from === 'slot') return `${SLOT}${value.slot}`;
  return value.from === 'files' && value.names.startsWith(PLANNED_PICTURE) ? value.names : value.from;
}

/** Which look is laid. */
export function LookWords({ value, set }: { value: LookSource; set: SetPart<LookSource> }) {
  const { slots, pictures, slabOf } = useNames();
  const slab = value.from === 'values' ? null : slabOf(value);
  const options = [
    ...STOCK_WORDS,
    { value: 'values', label: 'a plain colour' },
    { value: 'files', label: 'pictures …' },
    ...slots.map((slot) => ({ value: `${SLOT}${slot}`, label: `the material ${slot}` })),
    ...pictures.flatMap((name) => (name.startsWith(PLANNED_PICTURE) ? [{ value: name, label: `the ${name}` }] : [])),
  ];
  const now = optionOf(value);
  const all = options.some((one) => one.value === now)
    ? options
    : [...options, { value: now, label: value.from === 'slot' ? `the material ${value.slot}` : now }];
  const choose = (next: string) => {
    if (next === 'values') set({ from: 'values', color: '#8a8f7a', roughness: 0.6, metallic: 0 }, 'A plain colour');
    else if (next === 'files') set({ from: 'files', names: '*' }, 'Pictures as a look');
    else if (next.startsWith(PLANNED_PICTURE)) set({ from: 'files', names: next }, 'A planned picture as a look');
    else if (next.startsWith(SLOT)) set({ from: 'slot', slot: next.slice(SLOT.length), model: '*' }, 'Another look');
    else set({ from: 'stock', look: next as (typeof STOCK_WORDS)[number]['value'] }, 'Another look');
  };
  return (
    <>
      {slab && <img className={css.slab} src={slab} alt="" />}{' '}
      <ChoiceWord label="Look" value={now} options={all} onChange={choose} />
      {value.from === 'values' && <PlainWords value={value} set={set} />}
      {now === 'files' && value.from === 'files' && (
        <>
          {' named '}
          <FilesWord value={value.names} set={(names) => set({ from: 'files', names }, 'Pictures of a look')} />
        </>
      )}
    </>
  );
}

function FilesWord({ value, set }: { value: string; set: (names: string) => void }) {
  const { pictures } = useNames();
  const sets = [...new Set(pictures.map((name) => name.replace(/_[^_.]*\.[^.]+$/, '_*')))];
  return <TextWord label="Names of the pictures; * stands for any letters" value={value} known={sets} onChange={set} />;
}

function PlainWords({ value, set }: { value: Extract<LookSource, { from: 'values' }>; set: SetPart<LookSource> }) {
  const share = (key: 'roughness' | 'metallic', word: string) =>
    value[key] !== undefined && (
      <>
        {`, ${word} `}
        <NumberWord
          label={word}
          unit="%"
          value={Math.round((value[key] ?? 0) * 100)}
          min={0}
          max={100}
          step={5}
          onChange={(v, trial) => set({ ...value, [key]: v / 100 }, word, trial)}
        />
      </>
    );
  return (
    <>
      {value.color !== undefined && (
        <>
          {' '}
          <ColourWord
            label="Colour"
            value={value.color}
            onChange={(color, trial) => set({ ...value, color }, 'Colour', trial)}
          />
        </>
      )}
      {share('roughness', 'roughness')}
      {share('metallic', 'metallic')}
      {value.emissive !== undefined && (
        <>
          {', glowing '}
          <ColourWord
            label="Glow"
            value={value.emissive}
            onChange={(emissive, trial) => set({ ...value, emissive }, 'Glow', trial)}
          />
        </>
      )}
    </>
  );
}
