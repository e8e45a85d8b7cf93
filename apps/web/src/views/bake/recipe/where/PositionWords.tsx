import { ChoiceWord } from '../words/ChoiceWord.tsx';
import type { Of, SingleProps } from './single-props.ts';

const AXES = [
  { value: 'y', label: 'height' },
  { value: 'x', label: 'place along X' },
  { value: 'z', label: 'place along Z' },
] as const;

/** Of what a height or place is measured. */
export function PositionWords({ value, set }: Omit<SingleProps<Of<'position'>>, 'open'>) {
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
