import type { Condition } from '@wembrel/core/decisions/recipe/condition';
import type { MeasuredCondition } from '@wembrel/core/recipes/conditions/measure';
import type { MeasureHistogram } from '@wembrel/core/recipes/readings/histogram';
import { useEffect, useRef, useState } from 'react';
import { percent } from '../../../ui/format.ts';
import { measuredIn } from './measured-in.ts';
import css from './Recipe.module.css';
import { type SetPart, useAsk } from './recipe-context.ts';
import { MEASURES } from './recipe-options.ts';
import { unitOf } from './StretchWords.tsx';

const WIDTH = 320;
const HEIGHT = 52;

/** How often each value is met that a condition measures; the ends of its stretch are dragged on it. */
export function StretchChart({ where, set }: { where: Condition; set: SetPart<Condition> }) {
  const found = measuredIn(where, set);
  return found && <Chart {...found} />;
}

function Chart({ value, set }: { value: MeasuredCondition; set: SetPart<Condition> }) {
  const { histogram } = useAsk();
  /** Undefined until it was asked for the first time. */
  const [shown, setShown] = useState<MeasureHistogram | null | undefined>(undefined);
  const text = JSON.stringify(value);
  // biome-ignore lint/correctness/useExhaustiveDependencies: by what the condition says
  useEffect(() => {
    const giveUp = new AbortController();
    const timer = setTimeout(() => {
      histogram(value, giveUp.signal).then(
        (h) => !giveUp.signal.aborted && setShown(h),
        () => !giveUp.signal.aborted && setShown((now) => now ?? null),
      );
    }, 150);
    return () => {
      clearTimeout(timer);
      giveUp.abort();
    };
  }, [text, histogram]);
  if (shown === null) return null;
  // Its place is kept, so that what stands below it does not move.
  if (!shown)
    return (
      <figure className={css.chart} aria-busy>
        <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} aria-hidden />
        <figcaption>counting …</figcaption>
      </figure>
    );
  const { from, to, shares } = shown;
  const most = Math.max(...shares, 1e-9);
  const x = (v: number) => ((v - from) / (to - from)) * WIDTH;
  const { unit, step } = unitOf(value);
  const word = value.of === 'position' ? 'place' : (MEASURES[value.of]?.word ?? value.of);
  const text2 = (v: number) => `${Number(v.toPrecision(3))}${unit && ` ${unit}`}`;
  return (
    <figure className={css.chart}>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} aria-label={`How often each value of ${word} is met`}>
        {shares.map((share, i) => {
          const mid = from + ((i + 0.5) / shares.length) * (to - from);
          const inside = (value.from === null || mid >= value.from) && (value.to === null || mid <= value.to);
          const h = (Math.sqrt(share / most) || 0) * (HEIGHT - 4);
          return (
            <rect
              key={mid}
              className={inside ? css.inside : css.outside}
              x={(i / shares.length) * WIDTH}
              width={WIDTH / shares.length - 0.6}
              y={HEIGHT - h}
              height={h}
            />
          );
        })}
        {value.from !== null && (
          <End
            at={value.from}
            label="Least value"
            x={x}
            range={[from, to]}
            step={step}
            onChange={(v, trial) => set({ ...value, from: v }, 'Least value', trial)}
          />
        )}
        {value.to !== null && (
          <End
            at={value.to}
            label="Greatest value"
            x={x}
            range={[from, to]}
            step={step}
            onChange={(v, trial) => set({ ...value, to: v }, 'Greatest value', trial)}
          />
        )}
      </svg>
      <figcaption>
        <span>{text2(from)}</span>
        <span>
          {word}: <b>{percent(shown.share)}</b> of the surface
        </span>
        <span>{text2(to)}</span>
      </figcaption>
    </figure>
  );
}

interface EndProps {
  at: number;
  label: string;
  x: (v: number) => number;
  range: readonly [number, number];
  step: number;
  onChange: (v: number, trial: boolean) => void;
}

function End({ at, label, x, range: [from, to], step, onChange }: EndProps) {
  const drag = useRef<number | null>(null);
  const valueAt = (event: React.PointerEvent<SVGGElement>) => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (!box) return at;
    const v = from + ((event.clientX - box.left) / box.width) * (to - from);
    return Number(Math.min(to, Math.max(from, v)).toPrecision(3));
  };
  const place = Math.min(WIDTH - 1, Math.max(1, x(at)));
  return (
    <g
      className={css.end}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={at}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        drag.current = at;
      }}
      onPointerMove={(event) => {
        if (drag.current === null) return;
        drag.current = valueAt(event);
        onChange(drag.current, true);
      }}
      onPointerUp={() => {
        if (drag.current !== null) onChange(drag.current, false);
        drag.current = null;
      }}
      onKeyDown={(event) => {
        const way = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
        if (!way || event.altKey) return;
        event.preventDefault();
        event.stopPropagation();
        onChange(Number((at + way * step * (event.shiftKey ? 10 : 1)).toPrecision(6)), false);
      }}
    >
      <rect x={place - 6} y={0} width={12} height={HEIGHT} fill="transparent" />
      <line x1={place} x2={place} y1={0} y2={HEIGHT} />
      <path d={`M${place - 4} 0h8l-4 6z`} />
    </g>
  );
}
