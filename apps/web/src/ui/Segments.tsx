import { RadioGroup } from 'radix-ui';
import css from './Segments.module.css';

export interface SegmentsProps<T extends string> {
  label: string;
  value: T;
  options: { value: T; label: string }[];
  onChange: (value: T) => void;
}

/** One of a few choices, all in sight; arrows move along. */
export function Segments<T extends string>({ label, value, options, onChange }: SegmentsProps<T>) {
  return (
    <RadioGroup.Root
      className={css.row}
      aria-label={label}
      value={value}
      orientation="horizontal"
      onValueChange={(v) => onChange(v as T)}
    >
      {options.map((option) => (
        <RadioGroup.Item key={option.value} value={option.value} className={css.item}>
          {option.label}
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}
