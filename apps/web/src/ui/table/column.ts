import type { ReactNode } from 'react';

/** A column of a table. */
export interface Column<Row> {
  key: string;
  title: string;
  /** What is sorted and filtered by; numbers stand to the right. */
  value: (row: Row) => number | string;
  cell?: (row: Row) => ReactNode;
  /** CSS grid track. */
  width: string;
}
