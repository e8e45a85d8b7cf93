import { useDraggable } from '@dnd-kit/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useMemo, useRef } from 'react';
import type { ProjectView, SurveyView } from '../../contract/project.ts';
import type { Forecast } from '../../project/prediction.ts';
import { Swatch } from '../../project/Swatch.tsx';
import { selectSlots, setHover, useSelection } from '../../project/selection.ts';
import { bytes, count, indexColour } from '../../ui/format.ts';
import { type MenuEntry, ObjectMenu, objectAt } from '../../ui/ObjectMenu.tsx';
import { type Carried, carriedBy } from './flow-geometry.ts';
import { HEADING, type ListRows, ROW, slotTitle } from './list-rows.ts';
import css from './SlotList.module.css';

export interface SlotListProps {
  project: ProjectView;
  survey: SurveyView | null;
  forecast: Forecast;
  rows: ListRows;
  carried: Carried;
  onScroll: (top: number) => void;
  /** True when the key meant something. */
  onKey: (key: string) => boolean;
  /** What can be done to the selected slots. */
  menu: () => MenuEntry[];
}

/** All slots in their groups. Click, Ctrl-click and Shift-click select, as do arrows and Space; rows can be dragged to a sheet. */
export function SlotList({ project, survey, forecast, rows, carried, onScroll, onKey, menu }: SlotListProps) {
  const box = useRef<HTMLDivElement>(null);
  /** Positions in the order of the list. */
  const active = useRef(0);
  const anchor = useRef(0);
  const slots = useSelection((selection) => selection.slots);
  const values = useMemo(() => carriedBy(survey, forecast, carried), [survey, forecast, carried]);
  const { items, order } = rows;
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => box.current,
    estimateSize: (i) => (items[i].kind === 'slot' ? ROW : HEADING),
    getItemKey: (i) => {
      const item = items[i];
      return item.kind === 'slot' ? `${i} ${item.slot}` : `heading ${i} ${item.title}`;
    },
    overscan: 8,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: rows of another height have to be measured again
  useEffect(() => virtual.measure(), [items]);
  useEffect(() => onScroll(box.current?.scrollTop ?? 0), [onScroll]);
  const choose = (at: number, keys: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    active.current = at;
    if (keys.shiftKey) {
      const [a, b] = [Math.min(anchor.current, at), Math.max(anchor.current, at)];
      selectSlots(order.slice(a, b + 1));
      return;
    }
    anchor.current = at;
    selectSlots([order[at]], keys.ctrlKey || keys.metaKey ? 'toggle' : 'only');
  };
  const key = (event: React.KeyboardEvent) => {
    if (event.ctrlKey && event.key.toLowerCase() === 'a') selectSlots(order);
    else if (event.ctrlKey || event.metaKey || event.altKey) return;
    else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      const at = Math.max(0, Math.min(order.length - 1, active.current + (event.key === 'ArrowDown' ? 1 : -1)));
      choose(at, { shiftKey: event.shiftKey, ctrlKey: false, metaKey: false });
      virtual.scrollToIndex(lineOf[at]);
      requestAnimationFrame(() => box.current?.querySelector<HTMLElement>(`[data-at="${at}"]`)?.focus());
    } else if (event.key === ' ') selectSlots([order[active.current]], 'toggle');
    else if (event.key === 'Escape') selectSlots([]);
    else if (!onKey(event.key)) return;
    event.preventDefault();
  };
  const lineOf = useMemo(() => items.flatMap((item, i) => (item.kind === 'slot' ? [i] : [])), [items]);
  const atOfLine = useMemo(() => new Map(lineOf.map((line, at) => [line, at])), [lineOf]);
  const shown = (i: number) =>
    carried === 'memory'
      ? bytes(values[i])
      : carried === 'drawCalls'
        ? `${count(values[i])} calls`
        : values[i] > 0
          ? `${count(values[i] / 1000)} kpx`
          : 'one colour';
  const entries = (target: HTMLElement): MenuEntry[] => {
    const slot = objectAt(target, 'slot');
    if (slot === null) return [];
    if (!slots.has(slot)) selectSlots([slot]);
    return menu();
  };
  return (
    <ObjectMenu entries={entries}>
      <div
        ref={box}
        className={css.list}
        role="listbox"
        aria-multiselectable
        aria-label="Slots; digits route the selected ones to a sheet, 0 keeps them apart"
        data-flow-list=""
        tabIndex={-1}
        onKeyDown={key}
        onScroll={(event) => onScroll(event.currentTarget.scrollTop)}
      >
        <div className={css.all} style={{ height: virtual.getTotalSize() }} role="presentation">
          {virtual.getVirtualItems().map((v) => {
            const item = items[v.index];
            const style = { transform: `translateY(${v.start}px)` };
            if (item.kind === 'heading')
              return (
                <div key={v.key} className={css.model} style={style} role="presentation">
                  {item.title} <em>{item.note}</em>
                </div>
              );
            const at = atOfLine.get(v.index) as number;
            const planSlot = forecast.planSlots[item.slot];
            const facts = survey?.slots[item.slot];
            const planned = facts
              ? null
              : project.decisions.planned.find((planned) => planSlot.look === `planned ${planned.id}`);
            return (
              <Row
                key={v.key}
                at={at}
                index={item.slot}
                style={style}
                name={slotTitle(forecast, project.decisions.planned, item.slot)}
                figure={shown(item.slot)}
                selected={slots.has(item.slot)}
                first={at === 0}
                project={project}
                picture={planSlot.images.baseColor}
                colour={planned?.colour}
                image={planned?.picture ? `/api/projects/${project.id}/pictures/${planned.picture}` : undefined}
                factor={facts?.factor ?? GREY}
                apart={forecast.flows[item.slot].sheet < 0}
                repeats={planSlot.repeats}
                alpha={planSlot.alphaMode !== 'OPAQUE'}
                onChoose={choose}
              />
            );
          })}
        </div>
        {items.length === 0 && <p className={css.none}>No slot fits.</p>}
      </div>
    </ObjectMenu>
  );
}

const GREY: [number, number, number] = [0.2, 0.2, 0.2];

interface RowProps {
  /** Position in the order of the list, and the slot there. */
  at: number;
  index: number;
  style: React.CSSProperties;
  name: string;
  figure: string;
  selected: boolean;
  first: boolean;
  project: ProjectView;
  picture: string | undefined;
  /** Of a planned surface. */
  colour: string | undefined;
  image: string | undefined;
  factor: [number, number, number];
  apart: boolean;
  repeats: number;
  alpha: boolean;
  onChoose: (at: number, e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => void;
}

const Row = memo(
  function Row(rowProps: RowProps) {
    const { setNodeRef, listeners } = useDraggable({
      id: `${rowProps.at} ${rowProps.index}`,
      data: { slot: rowProps.index },
    });
    return (
      <div
        ref={setNodeRef}
        role="option"
        aria-selected={rowProps.selected}
        data-slot={rowProps.index}
        data-at={rowProps.at}
        tabIndex={rowProps.first || rowProps.selected ? 0 : -1}
        className={`${css.row} ${rowProps.selected ? css.selected : ''} ${rowProps.apart ? css.apart : ''}`}
        style={rowProps.style}
        {...listeners}
        onClick={(event) => rowProps.onChoose(rowProps.at, event)}
        onPointerEnter={() => setHover(rowProps.index)}
        onPointerLeave={() => setHover(null)}
      >
        <span className={css.chip} style={{ background: indexColour(rowProps.index) }}>
          {rowProps.index + 1}
        </span>
        {rowProps.image ? (
          <img className={css.image} alt="" src={rowProps.image} />
        ) : rowProps.colour ? (
          <span className={css.image} style={{ background: rowProps.colour }} />
        ) : (
          <Swatch project={rowProps.project} picture={rowProps.picture} factor={rowProps.factor} />
        )}
        <span className={css.name} title={rowProps.name}>
          {rowProps.name}
        </span>
        {rowProps.alpha && (
          <span className={css.repeats} title="with transparency">
            α
          </span>
        )}
        {rowProps.repeats > 1.001 && (
          <span className={css.repeats} title={`repeats ${rowProps.repeats.toFixed(1)} times across an island`}>
            {rowProps.repeats.toFixed(0)}×
          </span>
        )}
        <span className={css.figure}>{rowProps.figure}</span>
      </div>
    );
  },
  (a, b) =>
    a.selected === b.selected &&
    a.figure === b.figure &&
    a.apart === b.apart &&
    a.name === b.name &&
    a.index === b.index &&
    a.at === b.at &&
    a.style.transform === b.style.transform &&
    a.colour === b.colour &&
    a.image === b.image &&
    a.project.surveyJob === b.project.surveyJob &&
    a.onChoose === b.onChoose,
);
