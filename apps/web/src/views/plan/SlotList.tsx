import { useDraggable } from '@dnd-kit/core';
import { memo, useEffect, useMemo, useRef } from 'react';
import type { ProjectView, SurveyView } from '../../contract/project.ts';
import { bytes, count, indexColour } from '../../ui/format.ts';
import { Swatch } from '../survey/FilesTable.tsx';
import type { Forecast } from '../workbench/prediction.ts';
import { selectSlots, setHover, useSelection } from '../workbench/selection.ts';
import { type Carried, carriedBy } from './flow-geometry.ts';
import css from './SlotList.module.css';

export interface SlotListProps {
  project: ProjectView;
  survey: SurveyView;
  forecast: Forecast;
  carried: Carried;
  onScroll: (top: number) => void;
  /** True when the key meant something. */
  onKey: (key: string) => boolean;
}

/** All slots, grouped by model. Click, Ctrl-click and Shift-click select, as do arrows and Space; rows can be dragged to a sheet. */
export function SlotList({ project, survey, forecast, carried, onScroll, onKey }: SlotListProps) {
  const box = useRef<HTMLDivElement>(null);
  const active = useRef(0);
  const anchor = useRef(0);
  const slots = useSelection((s) => s.slots);
  const values = useMemo(() => carriedBy(survey, forecast, carried), [survey, forecast, carried]);
  useEffect(() => onScroll(box.current?.scrollTop ?? 0), [onScroll]);
  const range = (to: number) =>
    Array.from({ length: Math.abs(to - anchor.current) + 1 }, (_, i) => Math.min(to, anchor.current) + i);
  const choose = (i: number, e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    active.current = i;
    if (e.shiftKey) {
      selectSlots(range(i));
      return;
    }
    anchor.current = i;
    selectSlots([i], e.ctrlKey || e.metaKey ? 'toggle' : 'only');
  };
  const key = (e: React.KeyboardEvent) => {
    if (e.ctrlKey && e.key.toLowerCase() === 'a') selectSlots(survey.slots.map((_, i) => i));
    else if (e.ctrlKey || e.metaKey || e.altKey) return;
    else if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      const i = Math.max(0, Math.min(survey.slots.length - 1, active.current + (e.key === 'ArrowDown' ? 1 : -1)));
      choose(i, { shiftKey: e.shiftKey, ctrlKey: false, metaKey: false });
      box.current?.querySelector<HTMLElement>(`[data-slot="${i}"]`)?.focus();
    } else if (e.key === ' ') selectSlots([active.current], 'toggle');
    else if (e.key === 'Escape') selectSlots([]);
    else if (!onKey(e.key)) return;
    e.preventDefault();
  };
  const shown = (i: number) =>
    carried === 'memory'
      ? bytes(values[i])
      : carried === 'drawCalls'
        ? `${count(values[i])} calls`
        : values[i] > 0
          ? `${count(values[i] / 1000)} kpx`
          : 'one colour';
  return (
    <div
      ref={box}
      className={css.list}
      role="listbox"
      aria-multiselectable
      aria-label="Slots; digits route the selected ones to a sheet, 0 keeps them apart"
      data-flow-list=""
      tabIndex={-1}
      onKeyDown={key}
      onScroll={(e) => onScroll(e.currentTarget.scrollTop)}
    >
      {survey.slots.map((s, i) => (
        <div key={`${s.model}:${s.slot}`} role="presentation">
          {(i === 0 || survey.slots[i - 1].model !== s.model) && (
            <div className={css.model} role="presentation" title={survey.models[s.model].path}>
              {survey.models[s.model].path.split('/').pop()}
            </div>
          )}
          <Row
            index={i}
            name={s.name}
            figure={shown(i)}
            selected={slots.has(i)}
            first={i === 0}
            project={project}
            picture={s.images.baseColor}
            factor={s.factor}
            apart={forecast.flows[i].sheet < 0}
            repeats={s.repeats}
            onChoose={choose}
          />
        </div>
      ))}
    </div>
  );
}

interface RowProps {
  index: number;
  name: string;
  figure: string;
  selected: boolean;
  first: boolean;
  project: ProjectView;
  picture: string | undefined;
  factor: [number, number, number];
  apart: boolean;
  repeats: number;
  onChoose: (index: number, e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => void;
}

const Row = memo(
  function Row({ index, name, figure, selected, first, project, picture, factor, apart, repeats, onChoose }: RowProps) {
    const { setNodeRef, listeners } = useDraggable({ id: index });
    return (
      <div
        ref={setNodeRef}
        role="option"
        aria-selected={selected}
        data-slot={index}
        tabIndex={first || selected ? 0 : -1}
        className={`${css.row} ${selected ? css.selected : ''} ${apart ? css.apart : ''}`}
        {...listeners}
        onClick={(e) => onChoose(index, e)}
        onPointerEnter={() => setHover(index)}
        onPointerLeave={() => setHover(null)}
      >
        <span className={css.chip} style={{ background: indexColour(index) }}>
          {index + 1}
        </span>
        <Swatch project={project} picture={picture} factor={factor} />
        <span className={css.name} title={name}>
          {name}
        </span>
        {repeats > 1.001 && <span className={css.repeats}>{repeats.toFixed(0)}×</span>}
        <span className={css.figure}>{figure}</span>
      </div>
    );
  },
  (a, b) =>
    a.selected === b.selected &&
    a.figure === b.figure &&
    a.apart === b.apart &&
    a.name === b.name &&
    a.index === b.index &&
    a.project.surveyJob === b.project.surveyJob,
);
