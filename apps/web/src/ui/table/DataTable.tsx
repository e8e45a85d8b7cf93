import { useVirtualizer } from '@tanstack/react-virtual';
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react';
import type { Column } from './column.ts';
import css from './DataTable.module.css';
import { groupedLines, lineOfRows, rowAfterKey } from './grouped-lines.ts';
import { Footer, GroupHead, Head, type Look, TableRow } from './parts.tsx';
import { type Sort, useTableRows } from './use-table-rows.ts';

export interface DataTableProps<Row> {
  label: string;
  columns: Column<Row>[];
  rows: Row[];
  rowKey: (row: Row) => string;
  selected: ReadonlySet<string>;
  /** `only`: alone; `toggle`: in or out; `add`: these too. */
  onSelect: (keys: string[], how: 'only' | 'toggle' | 'add') => void;
  onHover?: (key: string | null) => void;
  sort: Sort;
  onSort: (sort: Sort) => void;
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

/**
 * Rows that sort by a click on a heading and filter by text; any number of them, since only those in sight are built. Click selects,
 * Ctrl or Space adds, Shift extends; arrows move.
 */
export function DataTable<Row extends object>(props: DataTableProps<Row>) {
  const { columns, rowKey, selected, sort, onShown } = props;
  const box = useRef<HTMLDivElement>(null);
  const shown = useTableRows(props.rows, columns, sort, props.filter);
  const lines = useMemo(() => groupedLines(shown, props.group ?? null), [shown, props.group]);
  const lineOf = useMemo(() => lineOfRows(lines), [lines]);
  useEffect(() => onShown?.(shown), [onShown, shown]);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 6,
  });
  const { active, setActive, choose, move } = useChoosing(props, { shown, lineOf, virtual, box });
  const look: Look<Row> = {
    columns,
    tracks: { gridTemplateColumns: columns.map((column) => column.width).join(' ') },
    numeric: (column) => shown.length > 0 && typeof column.value(shown[0]) === 'number',
  };
  return (
    <div
      className={css.table}
      role="grid"
      aria-label={props.label}
      aria-rowcount={shown.length + 1}
      aria-multiselectable
    >
      <Head look={look} sort={sort} onSort={props.onSort} />
      <div ref={box} className={css.body} role="rowgroup" onKeyDown={move}>
        <div className={css.all} style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const line = lines[item.index];
            const place = { height: ROW, transform: `translateY(${item.start}px)` };
            if (!('at' in line)) return <GroupHead key={`group ${line.title}`} line={line} place={place} />;
            const key = rowKey(line.row);
            return (
              <TableRow
                key={key}
                look={look}
                row={line.row}
                selected={selected.has(key)}
                place={place}
                data-index={line.at}
                aria-rowindex={item.index + 2}
                tabIndex={line.at === Math.min(active, shown.length - 1) ? 0 : -1}
                onClick={(event) => choose(line.at, event)}
                onFocus={() => setActive(line.at)}
                onPointerEnter={() => props.onHover?.(key)}
                onPointerLeave={() => props.onHover?.(null)}
              />
            );
          })}
        </div>
      </div>
      {props.footer && <Footer look={look} cells={props.footer} />}
    </div>
  );
}

interface Drawn<Row> {
  shown: Row[];
  lineOf: number[];
  virtual: Pick<ReturnType<typeof useVirtualizer<HTMLDivElement, Element>>, 'range' | 'scrollToIndex'>;
  box: React.RefObject<HTMLDivElement | null>;
}

/** Which row has the focus, and what clicks and keys choose. */
function useChoosing<Row extends object>(
  { rowKey, selected, onSelect }: DataTableProps<Row>,
  { shown, lineOf, virtual, box }: Drawn<Row>,
) {
  const [active, setActive] = useState(0);
  const anchor = useRef(0);
  // What is selected elsewhere comes into sight; what is selected here is there already.
  const own = useRef(false);
  const firstSelected = useMemo(() => shown.findIndex((row) => selected.has(rowKey(row))), [shown, selected, rowKey]);
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
  const choose = (index: number, keys: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    setActive(index);
    own.current = true;
    if (keys.shiftKey) {
      const [a, b] = [Math.min(anchor.current, index), Math.max(anchor.current, index)];
      return onSelect(shown.slice(a, b + 1).map(rowKey), 'only');
    }
    anchor.current = index;
    onSelect([rowKey(shown[index])], keys.ctrlKey || keys.metaKey ? 'toggle' : 'only');
  };
  const focusRow = (index: number) => {
    virtual.scrollToIndex(lineOf[index] ?? index);
    requestAnimationFrame(() =>
      box.current?.querySelector<HTMLElement>(`[data-index="${index}"]`)?.focus({ preventScroll: true }),
    );
  };
  const move = (event: React.KeyboardEvent) => {
    if (event.key === ' ') {
      event.preventDefault();
      own.current = true;
      if (shown[active]) onSelect([rowKey(shown[active])], 'toggle');
      return;
    }
    const page = Math.max(1, Math.floor((box.current?.clientHeight ?? ROW) / ROW) - 1);
    const index = rowAfterKey(event.key, active, shown.length, page);
    if (index === null) return;
    event.preventDefault();
    choose(index, { shiftKey: event.shiftKey, ctrlKey: false, metaKey: false });
    focusRow(index);
  };
  return { active, setActive, choose, move };
}
