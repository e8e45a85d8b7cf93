import type { Condition, Stretch } from '@wembrel/core/decisions/recipe/condition';
import type { MeasuredCondition } from '@wembrel/core/recipes/conditions/measure';
import type { SetPart } from './recipe-context.ts';
import { MEASURES } from './recipe-options.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import { NumberWord } from './words/NumberWord.tsx';

type Shape = 'over' | 'under' | 'between';

const shapeOf = ({ from, to }: Stretch): Shape =>
  from !== null && to !== null ? 'between' : to !== null ? 'under' : 'over';

/** Unit of a measured condition and what an arrow key changes it by. */
export function unitOf(value: MeasuredCondition): { unit: string; step: number } {
  if (value.of !== 'position') return MEASURES[value.of] ?? { unit: '', step: 0.01 };
  return value.unit === 'mm' ? { unit: 'mm', step: 5 } : { unit: '', step: 0.01 };
}

/** The stretch of a measure: over, under or between, and how soft. */
export function StretchWords({
  value,
  set,
  open,
}: {
  value: MeasuredCondition;
  set: SetPart<Condition>;
  open: boolean;
}) {
  const { unit, step } = unitOf(value);
  const shape = shapeOf(value);
  const put = (part: Partial<Stretch>, label: string, trial?: boolean) => set({ ...value, ...part }, label, trial);
  const number = (key: 'from' | 'to' | 'soft', label: string) => (
    <NumberWord
      label={label}
      unit={unit}
      value={value[key] ?? 0}
      min={key === 'soft' ? 0 : -Infinity}
      step={step}
      onChange={(v, trial) => put({ [key]: v }, label, trial)}
    />
  );
  return (
    <>
      <ChoiceWord
        label="Over, under or between"
        value={shape}
        options={[
          { value: 'over', label: 'over' },
          { value: 'under', label: 'under' },
          { value: 'between', label: 'between' },
        ]}
        onChange={(next) => {
          const at = value.from ?? value.to ?? 0;
          const other = value.to ?? value.from ?? 0;
          if (next === 'over') put({ from: at, to: null }, 'Stretch of a condition');
          else if (next === 'under') put({ from: null, to: other }, 'Stretch of a condition');
          else
            put(
              { from: Math.min(at, other), to: Math.max(at, other) + (at === other ? step * 10 : 0) },
              'Stretch of a condition',
            );
        }}
      />{' '}
      {shape !== 'under' && number('from', 'Least value')}
      {shape === 'between' && ' and '}
      {shape !== 'over' && number('to', 'Greatest value')}
      {(open || value.soft > 0) && (
        <>
          {' (soft '}
          {number('soft', 'Softness')})
        </>
      )}
    </>
  );
}
