import { type ReactNode, useEffect, useId, useRef, useState } from 'react';
import css from './Field.module.css';
import term from './Term.module.css';
import { useMeaning } from './Term.tsx';
import { Tooltip } from './Tooltip.tsx';

/** The label of a control; one that stands in the glossary explains itself on hover. */
function Explained({ id, label }: { id: string; label: string }) {
  const meaning = useMeaning(label);
  if (!meaning) return <label htmlFor={id}>{label}</label>;
  return (
    <Tooltip text={meaning}>
      <label htmlFor={id} className={term.explained}>
        {label}
      </label>
    </Tooltip>
  );
}

export function Field({
  label,
  note,
  children,
}: {
  label: string;
  note?: ReactNode;
  children: (id: string) => ReactNode;
}) {
  const id = useId();
  return (
    <div className={css.field}>
      <Explained id={id} label={label} />
      {children(id)}
      {note !== undefined && <p className={css.note}>{note}</p>}
    </div>
  );
}

/** A line of text. */
export function TextField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
}) {
  return (
    <Field label={label}>
      {(id) => <input id={id} className={css.text} value={value} onChange={(event) => onChange(event.target.value)} />}
    </Field>
  );
}

export interface NumberFieldProps {
  label: string;
  unit: string;
  value: number;
  min: number;
  max: number;
  step?: number;
  note?: ReactNode;
  onCommit: (value: number) => void;
}

/**
 * A number with its unit; taken over on Enter or when the field is left, and kept inside its range. The unit can be dragged
 * sideways: one step for each 6 px, ten with Shift.
 */
export function NumberField({ label, unit, value, min, max, step = 1, note, onCommit }: NumberFieldProps) {
  const [text, setText] = useState(String(value));
  const drag = useRef<{ x: number; from: number } | null>(null);
  useEffect(() => setText(String(value)), [value]);
  const keep = (n: number) => Math.min(max, Math.max(min, n));
  const commit = (raw = text) => {
    const n = Number(raw);
    if (raw.trim() === '' || !Number.isFinite(n)) return setText(String(value));
    const kept = keep(n);
    setText(String(kept));
    if (kept !== value) onCommit(kept);
  };
  return (
    <Field label={label} note={note}>
      {(id) => (
        <span className={css.number}>
          <input
            id={id}
            type="number"
            inputMode="decimal"
            value={text}
            min={min}
            max={max}
            step={step}
            onChange={(event) => setText(event.target.value)}
            onBlur={() => commit()}
            onKeyDown={(event) => event.key === 'Enter' && commit()}
          />
          <span
            className={css.unit}
            title="Drag sideways"
            onPointerDown={(event) => {
              drag.current = { x: event.clientX, from: value };
              event.currentTarget.setPointerCapture(event.pointerId);
            }}
            onPointerMove={(event) => {
              const current = drag.current;
              if (current)
                setText(
                  String(
                    keep(current.from + Math.round((event.clientX - current.x) / 6) * step * (event.shiftKey ? 10 : 1)),
                  ),
                );
            }}
            onPointerUp={() => {
              if (drag.current) commit();
              drag.current = null;
            }}
          >
            {unit}
          </span>
        </span>
      )}
    </Field>
  );
}

export interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  options: { value: T; label: string }[];
  note?: ReactNode;
  onChange: (value: T) => void;
}

export function Choice<T extends string>({ label, value, options, note, onChange }: ChoiceProps<T>) {
  return (
    <Field label={label} note={note}>
      {(id) => (
        <select id={id} className={css.select} value={value} onChange={(event) => onChange(event.target.value as T)}>
          {options.map((o) => (
            <option key={o.value} value={o.value}>
              {o.label}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
}

export function Check({
  label,
  checked,
  note,
  onChange,
}: {
  label: string;
  checked: boolean;
  note?: ReactNode;
  onChange: (v: boolean) => void;
}) {
  const id = useId();
  return (
    <div className={css.check}>
      <input id={id} type="checkbox" checked={checked} onChange={(event) => onChange(event.target.checked)} />
      <Explained id={id} label={label} />
      {note !== undefined && <p className={css.note}>{note}</p>}
    </div>
  );
}
