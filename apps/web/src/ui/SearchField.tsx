import css from './SearchField.module.css';

export interface SearchFieldProps {
  /** What the words that are typed do, for readers of the screen, as "Only rows with". */
  label: string;
  value: string;
  onChange: (value: string) => void;
}

/** Words that what is listed must hold. */
export function SearchField({ label, value, onChange }: SearchFieldProps) {
  return (
    <input
      type="search"
      className={css.field}
      aria-label={label}
      title={`${label} …`}
      placeholder="Filter"
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
