import { useRef } from 'react';
import css from './Words.module.css';

/** A colour as a slab, with its number. */
export function ColourWord({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (value: string, trial: boolean) => void;
}) {
  const before = useRef(value);
  return (
    <span className={css.colour}>
      <input
        type="color"
        aria-label={label}
        title={label}
        value={value}
        onFocus={() => {
          before.current = value;
        }}
        onKeyDown={(event) => event.stopPropagation()}
        onInput={(event) => onChange(event.currentTarget.value, true)}
        onBlur={(event) => event.currentTarget.value !== before.current && onChange(event.currentTarget.value, false)}
      />
      {value}
    </span>
  );
}
