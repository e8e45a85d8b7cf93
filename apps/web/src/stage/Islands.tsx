import type { Frame } from '@wembrel/core/layout/place';
import { Fragment, memo } from 'react';
import { indexColour } from '../ui/format.ts';
import { borderOf, islandFill, type SheetBay } from './bay.ts';
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
        const isLit = lit === plot.material;
        const path = borderOf(plot);
        const transform = on && change ? `matrix(${change.join(' ')})` : undefined;
        return (
          <Fragment key={plot.id}>
            {(on || isLit) && <path className={css.halo} d={path} transform={transform} />}
            <path
              data-plot={plot.id}
              d={path}
              transform={transform}
              fill={colour}
              fillOpacity={islandFill({ tinted: tint !== undefined, filled, selected: on, lit: isLit })}
              stroke={on ? '#fff' : borders || isLit ? colour : 'none'}
              strokeOpacity={lit === null || isLit || on ? 1 : 0.35}
              strokeDasharray={plot.stacked > 1 && !on ? 'var(--dash)' : undefined}
              className={`${on || isLit ? css.on : ''} ${faulty?.has(plot.id) ? css.faulty : ''}`}
              onPointerEnter={() => onHover(plot.material)}
              onPointerLeave={() => onHover(null)}
            >
              <title>{`${plot.slot}${plot.stacked > 1 ? `, ${plot.stacked} islands stacked` : ''}`}</title>
            </path>
          </Fragment>
        );
      })}
    </g>
  );
});
