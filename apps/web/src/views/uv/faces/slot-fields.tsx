import { useId } from 'react';
import { Field } from '../../../ui/Field.tsx';
import css from './Faces.module.css';

export interface SlotFieldProps {
  label: string;
  value: string;
  slots: readonly string[];
  placeholder?: string;
  mayBeEmpty?: boolean;
  onCommit: (slot: string) => void;
}

/** The name of a slot, one that is there or a new one. */
export function SlotField({ label, value, slots, placeholder, mayBeEmpty = false, onCommit }: SlotFieldProps) {
  const list = useId();
  return (
    <Field label={label}>
      {(id) => (
        <>
          <input
            // What was undone shows again.
            key={value}
            id={id}
            className={css.text}
            defaultValue={value}
            list={list}
            placeholder={placeholder}
            maxLength={120}
            onBlur={(event) => {
              const name = event.target.value.trim();
              if (name === value || (name === '' && !mayBeEmpty)) {
                event.target.value = value;
                return;
              }
              onCommit(name);
            }}
            onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
          />
          <datalist id={list}>
            {slots.map((slot) => (
              <option key={slot} value={slot} />
            ))}
          </datalist>
        </>
      )}
    </Field>
  );
}

/** A colour, taken over when its field is left. */
export function ColourField({
  label,
  value,
  onCommit,
}: {
  label: string;
  value: string;
  onCommit: (v: string) => void;
}) {
  return (
    <Field label={label}>
      {(id) => (
        <input
          key={value}
          id={id}
          type="color"
          className={css.colour}
          defaultValue={value}
          onBlur={(event) => event.target.value !== value && onCommit(event.target.value)}
        />
      )}
    </Field>
  );
}
