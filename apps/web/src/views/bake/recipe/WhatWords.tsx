import { Lay, type LookSource, type What } from '@wembrel/core/decisions/recipe/look';
import { type SetPart, useNames } from './recipe-context.ts';
import { CHANGE_WORDS, newWhat, STOCK_WORDS } from './recipe-options.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import { ColourWord } from './words/ColourWord.tsx';
import { NumberWord } from './words/NumberWord.tsx';
import { TextWord } from './words/TextWord.tsx';
import css from './words/Words.module.css';

interface WhatProps<T> {
  value: T;
  set: SetPart<What>;
  open: boolean;
}

/** What a line does: lays a look, or changes what is there. */
export function WhatWords({ value, set, open }: WhatProps<What>) {
  if ('change' in value) return <ChangeWords value={value} set={set} open={open} />;
  return (
    <>
      lay <LookWords value={value.look} set={(look, label, trial) => set({ ...value, look }, label, trial)} />{' '}
      <LayWords
        value={value.lay}
        plain={value.look.from === 'values'}
        set={(lay, label, trial) => set({ ...value, lay }, label, trial)}
        open={open}
      />
    </>
  );
}

type Change = Extract<What, { change: string }>;

function ChangeWords({ value, set }: WhatProps<Change>) {
  const unit = (key: 'by', most: number, least = 0) =>
    key in value && (
      <NumberWord
        label="By how much"
        unit="%"
        value={Math.round((value as { by: number }).by * 100)}
        min={least}
        max={most}
        step={5}
        onChange={(v, trial) => set({ ...value, by: v / 100 } as Change, 'By how much', trial)}
      />
    );
  return (
    <>
      <ChoiceWord
        label="What is changed"
        value={value.change}
        options={CHANGE_WORDS}
        onChange={(change) => set(newWhat(CHANGE_WORDS.find((one) => one.value === change)?.begin), 'Another change')}
      />{' '}
      {'color' in value && (
        <ColourWord
          label="Colour"
          value={value.color}
          onChange={(color, trial) => set({ ...value, color }, 'Colour', trial)}
        />
      )}
      {value.change === 'roughen' ? unit('by', 100, -100) : unit('by', 100)}
      {value.change === 'hue' && (
        <>
          <NumberWord
            label="Hue"
            unit="°"
            value={value.degrees}
            min={-180}
            max={180}
            step={1}
            onChange={(degrees, trial) => set({ ...value, degrees }, 'Hue', trial)}
          />
          {', chroma '}
          <NumberWord
            label="Chroma"
            unit="%"
            value={Math.round(value.chroma * 100)}
            min={0}
            max={400}
            step={5}
            onChange={(v, trial) => set({ ...value, chroma: v / 100 }, 'Chroma', trial)}
          />
          {', lightness '}
          <NumberWord
            label="Lightness"
            unit="%"
            value={Math.round(value.lightness * 100)}
            min={-100}
            max={100}
            step={1}
            onChange={(v, trial) => set({ ...value, lightness: v / 100 }, 'Lightness', trial)}
          />
        </>
      )}
      {value.change === 'levels' && (
        <>
          <ChoiceWord
            label="Channel"
            value={value.channel}
            options={(['color', 'occlusion', 'roughness', 'metallic'] as const).map((v) => ({ value: v, label: v }))}
            onChange={(channel) => set({ ...value, channel }, 'Channel')}
          />
          {' from '}
          <NumberWord
            label="What becomes 0"
            value={value.black}
            min={0}
            max={1}
            step={0.01}
            onChange={(black, trial) => set({ ...value, black }, 'Levels', trial)}
          />
          {' to '}
          <NumberWord
            label="What becomes 1"
            value={value.white}
            min={0}
            max={1}
            step={0.01}
            onChange={(white, trial) => set({ ...value, white }, 'Levels', trial)}
          />
        </>
      )}
    </>
  );
}

const SLOT = 'slot ';

function LookWords({ value, set }: { value: LookSource; set: SetPart<LookSource> }) {
  const { slots, slabOf } = useNames();
  const slab = value.from === 'values' ? null : slabOf(value);
  const options = [
    ...STOCK_WORDS,
    { value: 'values', label: 'a plain colour' },
    { value: 'files', label: 'pictures …' },
    ...slots.map((slot) => ({ value: `${SLOT}${slot}`, label: `the material ${slot}` })),
  ];
  const now = value.from === 'stock' ? value.look : value.from === 'slot' ? `${SLOT}${value.slot}` : value.from;
  const all = options.some((one) => one.value === now)
    ? options
    : [...options, { value: now, label: value.from === 'slot' ? `the material ${value.slot}` : now }];
  const choose = (next: string) => {
    if (next === 'values') set({ from: 'values', color: '#8a8f7a', roughness: 0.6, metallic: 0 }, 'A plain colour');
    else if (next === 'files') set({ from: 'files', names: '*' }, 'Pictures as a look');
    else if (next.startsWith(SLOT)) set({ from: 'slot', slot: next.slice(SLOT.length), model: '*' }, 'Another look');
    else set({ from: 'stock', look: next as (typeof STOCK_WORDS)[number]['value'] }, 'Another look');
  };
  return (
    <>
      {slab && <img className={css.slab} src={slab} alt="" />}{' '}
      <ChoiceWord label="Look" value={now} options={all} onChange={choose} />
      {value.from === 'values' && <PlainWords value={value} set={set} />}
      {value.from === 'files' && (
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

const WAYS: readonly { value: Lay['by']; label: string }[] = [
  { value: 'box', label: 'as a box' },
  { value: 'uv', label: 'along the UVs' },
  { value: 'side', label: 'as a decal' },
  { value: 'scatter', label: 'scattered' },
];

function LayWords({ value, plain, set, open }: { value: Lay; plain: boolean; set: SetPart<Lay>; open: boolean }) {
  // A plain colour looks the same however it lies.
  if (plain && value.by !== 'side' && value.by !== 'scatter' && !open) return null;
  const change = (by: Lay['by']) => {
    if (by === 'side')
      set(Lay.parse({ by, at: [0, 0.5, 0], direction: [0, 0, 1], width: 0.2, height: 0.2, depth: 0.1 }), 'As a decal');
    else if (by === 'scatter') set(Lay.parse({ by, count: 40, metres: [0.05, 0.1] }), 'Scattered');
    else set(Lay.parse({ by }), 'How a look lies');
  };
  const metres = (key: 'width' | 'height' | 'depth', label: string) =>
    value.by === 'side' && (
      <NumberWord
        label={label}
        unit="mm"
        value={Number((value[key] * 1000).toFixed(1))}
        min={0.1}
        step={5}
        onChange={(mm, trial) => set({ ...value, [key]: mm / 1000 }, label, trial)}
      />
    );
  return (
    <>
      <ChoiceWord label="How it lies" value={value.by} options={WAYS} onChange={change} />
      {(value.by === 'box' || value.by === 'uv') && !plain && (open || value.metres !== null || value.turn !== 0) && (
        <>
          {', '}
          {value.metres === null ? (
            <button
              type="button"
              className={css.choice}
              onClick={() => set({ ...value, metres: 0.5 }, 'Size of a repeat')}
            >
              as large as it is
            </button>
          ) : (
            <>
              <NumberWord
                label="Size of a repeat"
                unit="m"
                value={value.metres}
                min={0.001}
                step={0.05}
                onChange={(m, trial) => set({ ...value, metres: m }, 'Size of a repeat', trial)}
              />{' '}
              a repeat
              {open && (
                <button
                  type="button"
                  className={css.drop}
                  title="As large as it is"
                  aria-label="As large as it is"
                  onClick={() => set({ ...value, metres: null }, 'True size of a look')}
                >
                  ×
                </button>
              )}
            </>
          )}
          {', turned '}
          <NumberWord
            label="Turn"
            unit="°"
            value={value.turn}
            min={-360}
            max={360}
            step={5}
            onChange={(turn, trial) => set({ ...value, turn }, 'Turn of a look', trial)}
          />
        </>
      )}
      {(value.by === 'box' || value.by === 'uv') && !plain && (open || value.breakUp) && (
        <>
          {', '}
          <ChoiceWord
            label="Repetition"
            value={value.breakUp ? `${value.breakUp.by}${value.breakUp.turned ? ' turned' : ''}` : 'none'}
            options={[
              { value: 'none', label: 'repeated as it is' },
              { value: 'cells', label: 'repetition broken up' },
              { value: 'cells turned', label: 'repetition broken up and turned' },
              { value: 'courses', label: 'broken up by courses' },
            ]}
            onChange={(kind) => {
              const [by, turned] = kind.split(' ');
              const breakUp = by === 'none' ? null : { by, turned: turned === 'turned' };
              set(Lay.parse({ ...value, breakUp }), 'Repetition');
            }}
          />
        </>
      )}
      {value.by === 'side' && (
        <>
          {' '}
          {metres('width', 'Width')} × {metres('height', 'Height')}, turned{' '}
          <NumberWord
            label="Turn"
            unit="°"
            value={value.turn}
            min={-360}
            max={360}
            step={5}
            onChange={(turn, trial) => set({ ...value, turn }, 'Turn of a decal', trial)}
          />
          {open && (
            <>
              , through {metres('depth', 'Depth to both sides')}, at {value.at.map((v) => v.toFixed(2)).join(' ')} m
            </>
          )}
        </>
      )}
      {value.by === 'scatter' && (
        <>
          {' '}
          <NumberWord
            label="Copies"
            value={value.count}
            min={1}
            max={100_000}
            step={5}
            onChange={(count, trial) => set({ ...value, count }, 'Copies', trial)}
          />{' '}
          times,{' '}
          <NumberWord
            label="Least width"
            unit="mm"
            value={Number((value.metres[0] * 1000).toFixed(1))}
            min={0.1}
            step={5}
            onChange={(mm, trial) =>
              set({ ...value, metres: [mm / 1000, Math.max(mm / 1000, value.metres[1])] }, 'Size of copies', trial)
            }
          />{' '}
          to{' '}
          <NumberWord
            label="Greatest width"
            unit="mm"
            value={Number((value.metres[1] * 1000).toFixed(1))}
            min={0.1}
            step={5}
            onChange={(mm, trial) =>
              set({ ...value, metres: [Math.min(mm / 1000, value.metres[0]), mm / 1000] }, 'Size of copies', trial)
            }
          />{' '}
          (seed{' '}
          <NumberWord
            label="Seed"
            value={value.seed}
            min={0}
            max={9999}
            onChange={(seed, trial) => set({ ...value, seed }, 'Seed', trial)}
          />
          )
        </>
      )}
    </>
  );
}
