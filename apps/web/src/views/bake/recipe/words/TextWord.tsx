import { useId, useState } from 'react';
import css from './Words.module.css';

export interface TextWordProps {
  label: string;
  value: string;
  /** What may be meant. */
  known?: readonly string[];
  /** How it is shown: a name stands out. */
  strong?: boolean;
  onChange: (value: string) => void;
}

/** Words that are typed where they stand. */
export function TextWord({ label, value, known = [], strong = false, onChange }: TextWordProps) {
  const list = useId();
  const [text, setText] = useState<string | null>(null);
  // The list has room of its own beside the text, which a sentence has not: it is there while somebody writes.
  const [writing, setWriting] = useState(false);
  const listed = writing && known.length > 0;
  const done = (commit: boolean) => {
    if (commit && text?.trim() && text.trim() !== value) onChange(text.trim());
    setText(null);
  };
  return (
    <>
      <input
        className={strong ? css.name : css.text}
        aria-label={label}
        title={label}
        list={listed ? list : undefined}
        onFocus={() => setWriting(true)}
        value={text ?? value}
        size={Math.max(2, (text ?? value).length)}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => {
          setWriting(false);
          done(true);
        }}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') event.currentTarget.blur();
          else if (event.key === 'Escape') {
            setText(null);
            // Its text is taken back before it is left.
            requestAnimationFrame(() => event.currentTarget?.blur?.());
          }
        }}
      />
      {listed && (
        <datalist id={list}>
          {known.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
      )}
    </>
  );
}

/** Several names, apart by commas. */
export function NamesWord({
  value,
  onChange,
  ...rest
}: Omit<TextWordProps, 'value' | 'onChange'> & {
  value: readonly string[];
  onChange: (names: string[]) => void;
}) {
  return (
    <TextWord
      {...rest}
      value={value.join(', ')}
      onChange={(text) => {
        const names = text.split(',').flatMap((name) => name.trim() || []);
        if (names.length > 0) onChange(names);
      }}
    />
  );
}
