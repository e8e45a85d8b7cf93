import { useEffect, useRef, useState } from 'react';
import css from './Words.module.css';

export interface NumberWordProps {
  /** What it is, for readers of the screen. */
  label: string;
  value: number;
  unit?: string;
  min?: number;
  max?: number;
  /** What a drag of some px, or an arrow key, changes it by. */
  step?: number;
  /** @param trial it is being dragged: nothing is stored yet */
  onChange: (value: number, trial: boolean) => void;
}

/** Px of a drag for each step. */
const PX = 4;

const tidy = (v: number, step: number): number => {
  const digits = Math.max(0, Math.ceil(-Math.log10(step)) + 1);
  return Number(v.toFixed(Math.min(8, digits)));
};

/** A number in a sentence: dragged sideways (Shift: ten times as far, Alt: a tenth), moved by arrows, or typed after a click or Enter. */
export function NumberWord({
  label,
  value,
  unit = '',
  min = -Infinity,
  max = Infinity,
  step = 1,
  onChange,
}: NumberWordProps) {
  const [typing, setTyping] = useState<string | null>(null);
  const drag = useRef<{ x: number; from: number; at: number; moved: boolean } | null>(null);
  const field = useRef<HTMLInputElement>(null);
  const word = useRef<HTMLSpanElement>(null);
  const keep = (v: number) => Math.min(max, Math.max(min, v));
  const isTyping = typing !== null;
  useEffect(() => {
    if (isTyping) field.current?.select();
  }, [isTyping]);
  const done = (commit: boolean) => {
    const v = Number(typing?.replace(',', '.'));
    setTyping(null);
    if (commit && typing?.trim() && Number.isFinite(v) && keep(v) !== value) onChange(keep(v), false);
    requestAnimationFrame(() => word.current?.focus());
  };
  if (typing !== null)
    return (
      <input
        ref={field}
        className={css.typed}
        aria-label={label}
        inputMode="decimal"
        value={typing}
        size={Math.max(3, typing.length)}
        onChange={(event) => setTyping(event.target.value)}
        onBlur={() => done(true)}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') done(true);
          else if (event.key === 'Escape') done(false);
        }}
      />
    );
  const scale = (event: { shiftKey: boolean; altKey: boolean }) => (event.shiftKey ? 10 : event.altKey ? 0.1 : 1);
  return (
    <span
      ref={word}
      className={css.number}
      role="spinbutton"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={value}
      aria-valuetext={`${value}${unit && ` ${unit}`}`}
      title={`${label}: drag sideways, or click to type`}
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        drag.current = { x: event.clientX, from: value, at: value, moved: false };
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        const current = drag.current;
        if (!current) return;
        const by = Math.trunc((event.clientX - current.x) / PX);
        current.moved ||= by !== 0;
        const next = keep(tidy(current.from + by * step * scale(event), step * 0.1));
        if (!current.moved || next === current.at) return;
        current.at = next;
        onChange(next, true);
      }}
      onPointerUp={() => {
        const current = drag.current;
        drag.current = null;
        if (!current) return;
        if (current.moved) onChange(current.at, false);
        else setTyping(String(value));
      }}
      onKeyDown={(event) => {
        if (event.key === 'Enter') setTyping(String(value));
        else {
          const way = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
          if (!way || event.ctrlKey || event.metaKey || event.altKey) return;
          onChange(keep(tidy(value + way * step * (event.shiftKey ? 10 : 1), step)), false);
        }
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      {value}
      {unit && `\u202f${unit}`}
    </span>
  );
}
