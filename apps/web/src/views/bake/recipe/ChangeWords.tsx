import type { What } from '@wembrel/core/decisions/recipe/look';
import type { SetPart } from './recipe-context.ts';
import { CHANGE_WORDS, newWhat } from './recipe-options.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import { ColourWord } from './words/ColourWord.tsx';
import { ShareWord } from './words/MoreWords.tsx';
import { NumberWord } from './words/NumberWord.tsx';

type Change = Extract<What, { change: string }>;

/** A change of what is there. */
export function ChangeWords({ value, set }: { value: Change; set: SetPart<What> }) {
  const share = (least: number, most: number) =>
    'by' in value && (
      <ShareWord
        label="By how much"
        value={(value as { by: number }).by}
        min={least}
        max={most}
        onChange={(by, trial) => set({ ...value, by } as Change, 'By how much', trial)}
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
      {share(value.change === 'roughen' ? -1 : 0, 1)}
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
          <ShareWord
            label="Chroma"
            value={value.chroma}
            max={4}
            onChange={(chroma, trial) => set({ ...value, chroma }, 'Chroma', trial)}
          />
          {', lightness '}
          <ShareWord
            label="Lightness"
            value={value.lightness}
            min={-1}
            step={0.01}
            onChange={(lightness, trial) => set({ ...value, lightness }, 'Lightness', trial)}
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
          {', bent by '}
          <NumberWord
            label="Bend of the levels"
            value={value.gamma}
            min={0.1}
            max={10}
            step={0.05}
            onChange={(gamma, trial) => set({ ...value, gamma }, 'Levels', trial)}
          />
        </>
      )}
    </>
  );
}
