import {
  type ColumnDef,
  columnFilteringFeature,
  createFilteredRowModel,
  createSortedRowModel,
  globalFilteringFeature,
  rowSortingFeature,
  tableFeatures,
  useTable,
} from '@tanstack/react-table';
import { useMemo } from 'react';
import type { Column } from './column.ts';

const features = tableFeatures({
  columnFilteringFeature,
  globalFilteringFeature,
  rowSortingFeature,
  filteredRowModel: createFilteredRowModel(),
  sortedRowModel: createSortedRowModel(),
});

export interface Sort {
  /** Key of a column. */
  key: string;
  down: boolean;
}

/** Order of two values of a column: numbers by size, texts as people count ("leaf 2" before "leaf 10"). */
export function compareValues(a: number | string, b: number | string): number {
  return typeof a === 'number' && typeof b === 'number'
    ? a - b
    : String(a).localeCompare(String(b), 'en', { numeric: true });
}

/** Whether each word of a filter stands in some cell of a row. */
export function holdsWords<Row>(row: Row, columns: readonly Column<Row>[], filter: string): boolean {
  const text = columns
    .map((column) => String(column.value(row)))
    .join('\n')
    .toLowerCase();
  return filter
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}

/** The rows that a filter leaves, in the order of a column; rows that are equal there keep their order. */
export function useTableRows<Row extends object>(
  rows: Row[],
  columns: readonly Column<Row>[],
  sort: Sort,
  filter: string,
): Row[] {
  const defined = useMemo(
    () =>
      columns.map(
        (column, i): ColumnDef<typeof features, Row> => ({
          id: column.key,
          accessorFn: (row) => column.value(row),
          sortFn: (a, b) => compareValues(column.value(a.original), column.value(b.original)),
          // One column asks for the whole row: words of a filter may stand in different cells.
          enableGlobalFilter: i === 0,
        }),
      ),
    [columns],
  );
  const key = columns.some((column) => column.key === sort.key) ? sort.key : columns[0].key;
  const state = useMemo(
    () => ({ sorting: [{ id: key, desc: sort.down }], globalFilter: filter.trim() }),
    [key, sort.down, filter],
  );
  const table = useTable({
    features,
    columns: defined,
    data: rows,
    state,
    getColumnCanGlobalFilter: () => true,
    globalFilterFn: (row, _column, words: string) => holdsWords(row.original, columns, words),
  });
  const model = table.getRowModel();
  return useMemo(() => model.rows.map((row) => row.original), [model]);
}
