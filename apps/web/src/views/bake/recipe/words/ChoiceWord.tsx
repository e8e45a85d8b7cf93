import css from './Words.module.css';

export interface ChoiceWordProps<T extends string> {
  label: string;
  value: T;
  options: readonly { value: T; label: string }[];
  onChange: (value: T) => void;
}

/** One of several words, chosen where it stands. */
export function ChoiceWord<T extends string>({ label, value, options, onChange }: ChoiceWordProps<T>) {
  const shown = options.find((one) => one.value === value)?.label ?? value;
  return (
    <span className={css.choice}>
      {/* The words themselves give the width; the control lies over them. */}
      <span aria-hidden="true">{shown}</span>
      <select
        aria-label={label}
        value={value}
        onKeyDown={(event) => event.stopPropagation()}
        onChange={(event) => onChange(event.target.value as T)}
      >
        {options.map((one) => (
          <option key={one.value} value={one.value}>
            {one.label}
          </option>
        ))}
      </select>
    </span>
  );
}

/** A word that adds something: a list of what can be added. */
export function AddWord<T extends string>({
  label,
  options,
  onAdd,
}: {
  label: string;
  options: readonly { value: T; label: string }[];
  onAdd: (value: T) => void;
}) {
  return (
    <span className={css.add}>
      <span aria-hidden="true">{label}</span>
      <select
        aria-label={label}
        value=""
        onKeyDown={(event) => event.stopPropagation()}
        onChange={(event) => event.target.value && onAdd(event.target.value as T)}
      >
        <option value="" disabled>
          {label}
        </option>
        {options.map((one) => (
          <option key={one.value} value={one.value}>
            {one.label}
          </option>
        ))}
      </select>
    </span>
  );
}
