import { useVirtualizer } from '@tanstack/react-virtual';
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react';
import type { Column } from './column.ts';
import css from './DataTable.module.css';

export interface DataTableProps<Row> {
  label: string;
  columns: Column<Row>[];
  rows: Row[];
  rowKey: (row: Row) => string;
  selected: ReadonlySet<string>;
  /** `only`: alone; `toggle`: in or out; `add`: these too. */
  onSelect: (keys: string[], how: 'only' | 'toggle' | 'add') => void;
  onHover?: (key: string | null) => void;
  sort: { key: string; down: boolean };
  onSort: (sort: { key: string; down: boolean }) => void;
  /** Text that some cell of a row must hold. */
  filter: string;
  /** Rows with one value stand together under it. */
  group?: ((row: Row) => string) | null;
  /** Called with the rows that are in sight, in their order. */
  onShown?: (rows: Row[]) => void;
  /** A last row that stays in sight. */
  footer?: Record<string, ReactNode>;
}

const ROW = 28;

type Line<Row> = { row: Row; at: number } | { title: string; count: number };

/** The rows with a heading before each group; groups in the order of their first rows. */
function grouped<Row>(rows: Row[], group: ((row: Row) => string) | null): Line<Row>[] {
  if (!group) return rows.map((row, at) => ({ row, at }));
  const groups = new Map<string, { row: Row; at: number }[]>();
  rows.forEach((row, at) => {
    const title = group(row);
    const list = groups.get(title);
    if (list) list.push({ row, at });
    else groups.set(title, [{ row, at }]);
  });
  return [...groups].flatMap(([title, list]) => [{ title, count: list.length }, ...list]);
}

/**
 * Rows that sort by a click on a heading and filter by text; any number of them, since only those in sight are built. Click selects,
 * Ctrl or Space adds, Shift extends; arrows move.
 */
export function DataTable<Row>(props: DataTableProps<Row>) {
  const { columns, rows, rowKey, selected, sort, filter } = props;
  const box = useRef<HTMLDivElement>(null);
  const [active, setActive] = useState(0);
  const anchor = useRef(0);
  const shown = useMemo(() => {
    const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
    const column = columns.find((column) => column.key === sort.key) ?? columns[0];
    const kept = words.length
      ? rows.filter((row) => {
          const text = columns
            .map((column) => String(column.value(row)))
            .join('\n')
            .toLowerCase();
          return words.every((word) => text.includes(word));
        })
      : rows;
    const way = sort.down ? -1 : 1;
    return kept
      .map((row, i) => ({ row, i, v: column.value(row) }))
      .sort((a, b) => {
        const d =
          typeof a.v === 'number' && typeof b.v === 'number'
            ? a.v - b.v
            : String(a.v).localeCompare(String(b.v), 'en', { numeric: true });
        return d * way || a.i - b.i;
      })
      .map((e) => e.row);
  }, [rows, columns, sort, filter]);
  const { group, onShown } = props;
  /** Rows and headings in the order in which they stand; a heading has no position among the rows. */
  const lines = useMemo(() => grouped(shown, group ?? null), [shown, group]);
  const lineOf = useMemo(() => {
    const at: number[] = [];
    lines.forEach((line, i) => {
      if ('at' in line) at[line.at] = i;
    });
    return at;
  }, [lines]);
  useEffect(() => onShown?.(shown), [onShown, shown]);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 6,
  });
  // What is selected elsewhere comes into sight; what is selected here is there already.
  const own = useRef(false);
  const firstSelected = useMemo(() => shown.findIndex((r) => selected.has(rowKey(r))), [shown, selected, rowKey]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a change of the selection moves the table
  useEffect(() => {
    if (own.current || firstSelected < 0) {
      own.current = false;
      return;
    }
    const line = lineOf[firstSelected];
    const { startIndex, endIndex } = virtual.range ?? { startIndex: 0, endIndex: -1 };
    if (line < startIndex || line >= endIndex) virtual.scrollToIndex(line, { align: 'center' });
  }, [firstSelected, selected.size]);
  const tracks = { gridTemplateColumns: columns.map((column) => column.width).join(' ') };
  const numeric = (column: Column<Row>) => shown.length > 0 && typeof column.value(shown[0]) === 'number';
  const choose = (index: number, keys: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    setActive(index);
    own.current = true;
    if (keys.shiftKey) {
      const [a, b] = [Math.min(anchor.current, index), Math.max(anchor.current, index)];
      props.onSelect(shown.slice(a, b + 1).map(rowKey), 'only');
      return;
    }
    anchor.current = index;
    props.onSelect([rowKey(shown[index])], keys.ctrlKey || keys.metaKey ? 'toggle' : 'only');
  };
  const focusRow = (index: number) => {
    virtual.scrollToIndex(lineOf[index] ?? index);
    requestAnimationFrame(() =>
      box.current?.querySelector<HTMLElement>(`[data-index="${index}"]`)?.focus({ preventScroll: true }),
    );
  };
  const move = (event: React.KeyboardEvent) => {
    const page = Math.max(1, Math.floor((box.current?.clientHeight ?? ROW) / ROW) - 1);
    const steps: Record<string, number> = {
      ArrowDown: 1,
      ArrowUp: -1,
      PageDown: page,
      PageUp: -page,
      Home: -1e9,
      End: 1e9,
    };
    if (event.key === ' ') {
      event.preventDefault();
      own.current = true;
      if (shown[active]) props.onSelect([rowKey(shown[active])], 'toggle');
      return;
    }
    if (steps[event.key] === undefined || shown.length === 0) return;
    event.preventDefault();
    const index = Math.min(shown.length - 1, Math.max(0, active + steps[event.key]));
    choose(index, { shiftKey: event.shiftKey, ctrlKey: false, metaKey: false });
    focusRow(index);
  };
  return (
    <div
      className={css.table}
      role="grid"
      aria-label={props.label}
      aria-rowcount={shown.length + 1}
      aria-multiselectable
    >
      <div className={css.head} role="row" style={tracks}>
        {columns.map((column) => (
          <div
            key={column.key}
            role="columnheader"
            aria-sort={sort.key === column.key ? (sort.down ? 'descending' : 'ascending') : 'none'}
            className={numeric(column) ? css.number : ''}
          >
            <button
              type="button"
              onClick={() =>
                props.onSort({ key: column.key, down: sort.key === column.key ? !sort.down : numeric(column) })
              }
            >
              {column.title}
              <span aria-hidden>{sort.key === column.key ? (sort.down ? ' ↓' : ' ↑') : ''}</span>
            </button>
          </div>
        ))}
      </div>
      <div ref={box} className={css.body} role="rowgroup" onKeyDown={move}>
        <div className={css.all} style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const line = lines[item.index];
            if (!('at' in line))
              return (
                <div
                  key={`group ${line.title}`}
                  role="row"
                  tabIndex={-1}
                  className={css.group}
                  style={{ height: ROW, transform: `translateY(${item.start}px)` }}
                >
                  <div role="gridcell" tabIndex={-1}>
                    {line.title || 'none'} <em>{line.count}</em>
                  </div>
                </div>
              );
            const { row, at } = line;
            const key = rowKey(row);
            return (
              <div
                key={key}
                role="row"
                data-index={at}
                aria-rowindex={item.index + 2}
                aria-selected={selected.has(key)}
                tabIndex={at === Math.min(active, shown.length - 1) ? 0 : -1}
                className={`${css.row} ${selected.has(key) ? css.selected : ''}`}
                style={{ ...tracks, height: ROW, transform: `translateY(${item.start}px)` }}
                onClick={(event) => choose(at, event)}
                onFocus={() => setActive(at)}
                onPointerEnter={() => props.onHover?.(key)}
                onPointerLeave={() => props.onHover?.(null)}
              >
                {columns.map((column) => {
                  const v = column.value(row);
                  return (
                    <div
                      key={column.key}
                      role="gridcell"
                      className={typeof v === 'number' ? css.number : ''}
                      tabIndex={-1}
                    >
                      {column.cell ? column.cell(row) : v}
                    </div>
                  );
                })}
              </div>
            );
          })}
        </div>
      </div>
      {props.footer && (
        <div className={css.foot} role="row" style={tracks}>
          {columns.map((column) => (
            <div key={column.key} role="gridcell" className={numeric(column) ? css.number : ''} tabIndex={-1}>
              {props.footer?.[column.key]}
            </div>
          ))}
        </div>
      )}
    </div>
  );
}
