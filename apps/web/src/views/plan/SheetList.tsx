import { useDroppable } from '@dnd-kit/core';
import { APART, type MergeDecisions, marginForMip, protectedMip } from '@wembrel/core/plan/decisions';
import { type CSSProperties, useEffect, useState } from 'react';
import type { SurveyView } from '../../contract/project.ts';
import { Button } from '../../ui/Button.tsx';
import { bytes, percent } from '../../ui/format.ts';
import { Tooltip } from '../../ui/Tooltip.tsx';
import type { Forecast } from '../workbench/prediction.ts';
import { setHover } from '../workbench/selection.ts';
import type { ViewProps } from '../workbench/Workbench.tsx';
import { withoutSheet, withSheet } from './routes.ts';
import css from './SheetList.module.css';

const SIZES = [64, 128, 256, 512, 1024, 2048, 4096, 8192];
/** Side of the largest sheet on the board, px: alone, and among others. */
const DRAWN_ALONE = 196;
const DRAWN = 132;

export interface SheetListProps {
  survey: SurveyView;
  decisions: MergeDecisions;
  forecast: Forecast;
  edit: ViewProps['edit'];
  onAdd: () => void;
  /** Routes what is selected. */
  onRoute: (to: string) => void;
  /** How many slots are selected. */
  selected: number;
}

/** Sheets drawn to scale, and below them what is kept apart, with the reasons. All take what is dropped on them. */
export function SheetList({ survey, decisions, forecast, edit, onAdd, onRoute, selected }: SheetListProps) {
  const largest = Math.max(...decisions.sheets.map((s) => s.size));
  // On a large screen the sheets take part of the room.
  const roomy = Math.min(1.8, Math.max(1, window.innerWidth / 1400));
  const side = Math.round((decisions.sheets.length === 1 ? DRAWN_ALONE : DRAWN) * roomy);
  const apart = forecast.flows.filter((f) => f.sheet < 0);
  const room = useDroppable({ id: APART });
  return (
    <div className={css.list} data-flow-sheets="">
      {decisions.sheets.map((s, i) => (
        <Sheet
          key={s.id}
          sheet={s}
          index={i}
          drawn={Math.max(34, (side * s.size) / largest)}
          column={side + 8}
          figures={forecast.sheets[i]}
          last={decisions.sheets.length === 1}
          edit={edit}
          onRoute={selected > 0 ? () => onRoute(s.id) : null}
        />
      ))}
      {decisions.sheets.length < 16 && (
        <Button className={css.add} onClick={onAdd}>
          Add a sheet
        </Button>
      )}
      <section
        ref={room.setNodeRef}
        className={`${css.apart} ${room.isOver ? css.over : ''}`}
        data-flow-target="apart"
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
          {apart.map((f) => (
            <li key={f.slot} onPointerEnter={() => setHover(f.slot)} onPointerLeave={() => setHover(null)}>
              <b>{survey.slots[f.slot].name}</b> {f.reason}
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}

interface SheetProps {
  sheet: MergeDecisions['sheets'][number];
  index: number;
  /** Side as drawn, and width of its column, px. */
  drawn: number;
  column: number;
  figures: Forecast['sheets'][number];
  last: boolean;
  edit: ViewProps['edit'];
  onRoute: (() => void) | null;
}

function Sheet({ sheet, index, drawn, column, figures, last, edit, onRoute }: SheetProps) {
  const { setNodeRef, isOver } = useDroppable({ id: sheet.id });
  const [name, setName] = useState(sheet.name);
  const [margin, setMargin] = useState(String(sheet.margin));
  useEffect(() => setName(sheet.name), [sheet.name]);
  useEffect(() => setMargin(String(sheet.margin)), [sheet.margin]);
  const mip = protectedMip(sheet.margin);
  const valid = /^[A-Za-z0-9][A-Za-z0-9 _.-]{0,60}$/.test(name);
  const rename = () => {
    if (!valid) setName(sheet.name);
    else if (name !== sheet.name) edit(`Rename ${sheet.name} to ${name}`, (d) => withSheet(d, sheet.id, { name }));
  };
  const setGap = () => {
    const v = Number(margin);
    if (margin.trim() === '' || !Number.isFinite(v) || v < 0 || v > 256) setMargin(String(sheet.margin));
    else if (v !== sheet.margin) edit(`Margin of ${sheet.name}: ${v} px`, (d) => withSheet(d, sheet.id, { margin: v }));
  };
  return (
    <section
      ref={setNodeRef}
      className={`${css.sheet} ${isOver ? css.over : ''}`}
      aria-label={`Sheet ${sheet.name}`}
      style={{ gridTemplateColumns: `${column}px 1fr` }}
    >
      <div className={css.picture}>
        <div
          className={css.square}
          data-flow-target={String(index)}
          style={
            { width: drawn, height: drawn, '--fill': percent(figures.coverage, 1).replace(' ', '') } as CSSProperties
          }
        >
          <span className={css.number}>{index + 1}</span>
        </div>
      </div>
      <div className={css.facts}>
        <div className={css.row}>
          <input
            className={css.name}
            aria-label={`Name of sheet ${index + 1}`}
            aria-invalid={!valid}
            value={name}
            onChange={(e) => setName(e.target.value)}
            onBlur={rename}
            onKeyDown={(e) => e.key === 'Enter' && rename()}
          />
          {!last && (
            <Button
              tone="quiet"
              onClick={() => edit(`Remove the sheet ${sheet.name}`, (d) => withoutSheet(d, sheet.id))}
              aria-label={`Remove the sheet ${sheet.name}`}
            >
              Remove
            </Button>
          )}
        </div>
        <div className={css.row}>
          <label>
            Side{' '}
            <select
              value={sheet.size}
              aria-label={`Side of ${sheet.name}`}
              onChange={(e) =>
                edit(`${sheet.name}: ${e.target.value} px`, (d) =>
                  withSheet(d, sheet.id, { size: Number(e.target.value) }),
                )
              }
            >
              {SIZES.map((s) => (
                <option key={s} value={s}>
                  {s} px
                </option>
              ))}
            </select>
          </label>
          <Tooltip
            text={
              mip < 0
                ? `Too small even for mip 0; ${marginForMip(0)} px protects it.`
                : `Keeps islands apart down to mip ${mip}; ${marginForMip(mip + 1)} px would protect mip ${mip + 1}.`
            }
          >
            <label>
              Margin{' '}
              <input
                className={`${css.gap} ${mip < 0 ? css.bad : ''}`}
                aria-label={`Margin of ${sheet.name}, px`}
                inputMode="decimal"
                value={margin}
                onChange={(e) => setMargin(e.target.value)}
                onBlur={setGap}
                onKeyDown={(e) => e.key === 'Enter' && setGap()}
              />{' '}
              px <em>{mip < 0 ? 'no mip' : `mip ${mip}`}</em>
            </label>
          </Tooltip>
        </div>
        <dl>
          <div>
            <dt>slots</dt>
            <dd>{figures.slots}</dd>
          </div>
          <div>
            <dt>sharpness</dt>
            <dd>≈ {percent(figures.scale)}</dd>
          </div>
          <div>
            <dt>covered</dt>
            <dd>≈ {percent(figures.coverage)}</dd>
          </div>
          <div>
            <dt>memory</dt>
            <dd>{bytes(figures.bytes.bc7)}</dd>
          </div>
        </dl>
        {onRoute && <Button onClick={onRoute}>Route selected here</Button>}
      </div>
    </section>
  );
}
