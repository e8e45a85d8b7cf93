import type { Frame } from '@wembrel/core/layout/place';
import { memo } from 'react';
import { indexColour } from '../ui/format.ts';
import { borderOf, type SheetBay } from './bay.ts';
import css from './SheetStage.module.css';

/** Half of the margin around every island: where two bands meet, the margin is just kept. */
export const Margins = memo(function Margins({ plots, margin }: { plots: readonly SheetBay[]; margin: number }) {
  return (
    <g className={css.margins} strokeWidth={margin}>
      {plots.map((plot) => (
        <path key={plot.id} d={borderOf(plot)} />
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
      {plots.map((plot) => {
        const on = selected?.has(plot.id) ?? false;
        const colour = tint?.(plot.id) ?? indexColour(plot.material);
        const rest = tint ? 0.85 : filled ? 0.22 : 0;
        return (
          <path
            key={plot.id}
            data-plot={plot.id}
            d={borderOf(plot)}
            transform={on && change ? `matrix(${change.join(' ')})` : undefined}
            fill={colour}
            fillOpacity={on ? (filled ? 0.75 : 0.15) : lit === plot.material ? Math.max(0.45, rest) : rest}
            stroke={on ? '#fff' : borders ? colour : 'none'}
            strokeOpacity={lit === null || lit === plot.material || on ? 1 : 0.35}
            strokeDasharray={plot.stacked > 1 && !on ? 'var(--dash)' : undefined}
            className={`${on ? css.on : ''} ${faulty?.has(plot.id) ? css.faulty : ''}`}
            onPointerEnter={() => onHover(plot.material)}
            onPointerLeave={() => onHover(null)}
          >
            <title>{`${plot.slot}${plot.stacked > 1 ? `, ${plot.stacked} islands stacked` : ''}`}</title>
          </path>
        );
      })}
    </g>
  );
});
