import { ChoiceWord } from '../words/ChoiceWord.tsx';
import { ShareWord } from '../words/MoreWords.tsx';
import { NumberWord } from '../words/NumberWord.tsx';
import type { Of, SingleProps } from './single-props.ts';

/** On places that were marked by hand. */
export function StrokeWords({ value, set }: Omit<SingleProps<Of<'strokes'>>, 'open'>) {
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
      <ShareWord
        label="Share of the radius that fades"
        value={value.falloff}
        onChange={(falloff, trial) => set({ ...value, falloff }, 'Falloff of marked places', trial)}
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
