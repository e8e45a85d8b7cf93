import type { Frame } from '@wembrel/core/layout/place';
import { memo } from 'react';
import { indexColour } from '../ui/format.ts';
import { borderOf, type SheetBay } from './bay.ts';
import css from './SheetStage.module.css';

/** Half of the margin around every island: where two bands meet, the margin is just kept. */
export const Margins = memo(function Margins({ plots, margin }: { plots: readonly SheetBay[]; margin: number }) {
  return (
    <g className={css.margins} strokeWidth={margin}>
      {plots.map((p) => (
        <path key={p.id} d={borderOf(p)} />
      ))}
    </g>
  );
});

export const Islands = memo(function Islands({
  plots,
  lit,
  selected,
  filled,
  borders,
  change,
  tint,
  faulty,
  onHover,
}: {
  plots: readonly SheetBay[];
  lit: number | null;
  selected?: ReadonlySet<number>;
  /** Nothing is below: islands show their colour. */
  filled: boolean;
  borders: boolean;
  /** How what is selected is being dragged. */
  change: Frame | null;
  tint?: (id: number) => string;
  faulty?: ReadonlySet<number>;
  onHover: (material: number | null) => void;
}) {
  return (
    <g className={css.islands}>
      {plots.map((p) => {
        const on = selected?.has(p.id) ?? false;
        const colour = tint?.(p.id) ?? indexColour(p.material);
        const rest = tint ? 0.85 : filled ? 0.22 : 0;
        return (
          <path
            key={p.id}
            data-plot={p.id}
            d={borderOf(p)}
            transform={on && change ? `matrix(${change.join(' ')})` : undefined}
            fill={colour}
            fillOpacity={on ? (filled ? 0.75 : 0.15) : lit === p.material ? Math.max(0.45, rest) : rest}
            stroke={on ? '#fff' : borders ? colour : 'none'}
            strokeOpacity={lit === null || lit === p.material || on ? 1 : 0.35}
            strokeDasharray={p.stacked > 1 && !on ? 'var(--dash)' : undefined}
            className={`${on ? css.on : ''} ${faulty?.has(p.id) ? css.faulty : ''}`}
            onPointerEnter={() => onHover(p.material)}
            onPointerLeave={() => onHover(null)}
          >
            <title>{`${p.slot}${p.stacked > 1 ? `, ${p.stacked} islands stacked` : ''}`}</title>
          </path>
        );
      })}
    </g>
  );
});
