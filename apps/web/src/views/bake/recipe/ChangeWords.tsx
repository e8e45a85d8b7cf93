import type { What } from '@wembrel/core/decisions/recipe/look';
import type { SetPart } from './recipe-context.ts';
import { CHANGE_WORDS, newWhat } from './recipe-options.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import { ColourWord } from './words/ColourWord.tsx';
import { NumberWord } from './words/NumberWord.tsx';

type Change = Extract<What, { change: string }>;

/** A change of what is there. */
export function ChangeWords({ value, set }: { value: Change; set: SetPart<What> }) {
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
