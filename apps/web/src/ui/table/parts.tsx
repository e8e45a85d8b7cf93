import type { ComponentProps, CSSProperties, ReactNode } from 'react';
import type { Column } from './column.ts';
import css from './DataTable.module.css';
import type { Line } from './grouped-lines.ts';
import type { Sort } from './use-table-rows.ts';

/** What all rows of a table have in common. */
export interface Look<Row> {
  columns: readonly Column<Row>[];
  tracks: CSSProperties;
  /** A column of numbers stands to the right. */
  numeric: (column: Column<Row>) => boolean;
}

export function Head<Row>({ look, sort, onSort }: { look: Look<Row>; sort: Sort; onSort: (sort: Sort) => void }) {
  const next = (column: Column<Row>): Sort => ({
    key: column.key,
    down: sort.key === column.key ? !sort.down : look.numeric(column),
  });
  return (
    <div className={css.head} role="row" style={look.tracks}>
      {look.columns.map((column) => {
        const order = sort.key !== column.key ? 'none' : sort.down ? 'descending' : 'ascending';
        return (
          <div
            key={column.key}
            role="columnheader"
            aria-sort={order}
            className={look.numeric(column) ? css.number : ''}
          >
            <button type="button" onClick={() => onSort(next(column))}>
              {column.title}
              <span aria-hidden>{{ none: '', ascending: ' ↑', descending: ' ↓' }[order]}</span>
            </button>
          </div>
        );
      })}
    </div>
  );
}

export function GroupHead<Row>({ line, place }: { line: Exclude<Line<Row>, { row: Row }>; place: CSSProperties }) {
  return (
    <div role="row" tabIndex={-1} className={css.group} style={place}>
      <div role="gridcell" tabIndex={-1}>
        {line.title || 'none'} <em>{line.count}</em>
      </div>
    </div>
  );
}

export interface TableRowProps<Row> extends Omit<ComponentProps<'div'>, 'role' | 'style'> {
  look: Look<Row>;
  row: Row;
  selected: boolean;
  place: CSSProperties;
}

export function TableRow<Row>({ look, row, selected, place, ...rest }: TableRowProps<Row>) {
  return (
    <div
      role="row"
      aria-selected={selected}
      className={`${css.row} ${selected ? css.selected : ''}`}
      style={{ ...look.tracks, ...place }}
      {...rest}
    >
      {look.columns.map((column) => {
        const value = column.value(row);
        return (
          <div key={column.key} role="gridcell" className={typeof value === 'number' ? css.number : ''} tabIndex={-1}>
            {column.cell ? column.cell(row) : value}
          </div>
        );
      })}
    </div>
  );
}

/** A last row that stays in sight. */
export function Footer<Row>({ look, cells }: { look: Look<Row>; cells: Record<string, ReactNode> }) {
  return (
    <div className={css.foot} role="row" style={look.tracks}>
      {look.columns.map((column) => (
        <div key={column.key} role="gridcell" className={look.numeric(column) ? css.number : ''} tabIndex={-1}>
          {cells[column.key]}
        </div>
      ))}
    </div>
  );
}
