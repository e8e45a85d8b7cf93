import { useDroppable } from '@dnd-kit/core';
import { APART } from '@wembrel/core/decisions/rules';
import { type SheetDecision, sheetSides } from '@wembrel/core/decisions/sheets';
import type { ReactNode } from 'react';
import type { PackedSheet } from '../../contract/plots.ts';
import type { MergeDecisions } from '../../contract/project.ts';
import { byReason } from '../../project/by-reason.ts';
import type { Forecast } from '../../project/prediction.ts';
import { setHover } from '../../project/selection.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { count } from '../../ui/format.ts';
import type { BayPaint } from '../../workers/bay-pictures.worker.ts';
import { slotTitle } from './list-rows.ts';
import { SheetCard } from './SheetCard.tsx';
import css from './SheetList.module.css';

/** Side of the largest sheet on the board, px: alone, and among others. */
const DRAWN_ALONE = 180;
const DRAWN = 118;

export interface SheetListProps {
  decisions: MergeDecisions;
  forecast: Forecast;
  /** The sheets as they were packed last, and what their bays show. */
  packed: readonly PackedSheet[] | null;
  paints: ReadonlyMap<number, BayPaint>;
  edit: ViewProps['edit'];
  onAdd: () => void;
  /** Holds the bays of a sheet where they were handed over; null while nothing was. */
  onHold: ((sheet: SheetDecision) => void) | null;
  /** Routes what is selected. */
  onRoute: (to: string) => void;
  /** How many slots are selected. */
  selected: number;
  /** What stands between the sheets and what is kept apart. */
  children: ReactNode;
}

/** Sheets drawn to scale, and below them what is kept apart, with the reasons. All take what is dropped on them. */
export function SheetList({
  decisions,
  forecast,
  packed,
  paints,
  edit,
  onAdd,
  onHold,
  onRoute,
  selected,
  children,
}: SheetListProps) {
  const largest = Math.max(...decisions.sheets.flatMap((sheet) => sheetSides(sheet)));
  // On a large screen the sheets take part of the room.
  const roomy = Math.min(1.8, Math.max(1, window.innerWidth / 1400));
  const side = Math.round((decisions.sheets.length === 1 ? DRAWN_ALONE : DRAWN) * roomy);
  const apart = forecast.flows.filter((flow) => flow.sheet < 0);
  const room = useDroppable({ id: APART });
  return (
    <div className={css.list} data-flow-sheets="">
      {decisions.sheets.map((sheet, i) => (
        <SheetCard
          key={sheet.id}
          sheet={sheet}
          index={i}
          scale={side / largest}
          column={side + 8}
          figures={forecast.sheets[i]}
          bays={packed?.[i]?.plots ?? null}
          paints={paints}
          measured={forecast.packed}
          format={decisions.budget.format}
          last={decisions.sheets.length === 1}
          edit={edit}
          onHold={onHold && (() => onHold(sheet))}
          onRoute={selected > 0 ? () => onRoute(sheet.id) : null}
        />
      ))}
      {decisions.sheets.length < 16 && (
        <Button className={css.add} onClick={onAdd}>
          Add a sheet
        </Button>
      )}
      {children}
      <section
        ref={room.setNodeRef}
        className={`${css.apart} ${room.isOver ? css.over : ''}`}
        data-flow-target="apart"
        data-over={room.isOver || undefined}
        aria-label="Kept apart"
      >
        <header>
          <h2>
            <kbd>0</kbd> Kept apart
          </h2>
          {selected > 0 && <Button onClick={() => onRoute(APART)}>Keep selected apart</Button>}
        </header>
        {apart.length === 0 && <p className={css.none}>Every slot is merged.</p>}
        <ul>
          {byReason(apart).map(({ reason, entries }) => (
            <li key={reason}>
              {entries.length > 1 && <em>{count(entries.length)} slots: </em>}
              {entries.map((flow, i) => (
                <span key={flow.slot} onPointerEnter={() => setHover(flow.slot)} onPointerLeave={() => setHover(null)}>
                  {i > 0 && ', '}
                  <b>{slotTitle(forecast, decisions.planned, flow.slot)}</b>
                </span>
              ))}{' '}
              {reason}
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}
