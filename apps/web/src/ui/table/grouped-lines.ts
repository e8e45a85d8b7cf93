/** A line of a table: a row with its place among the rows in sight, or the heading of a group. */
export type Line<Row> = { row: Row; at: number } | { title: string; count: number };

/** The rows with a heading before each group; groups in the order of their first rows. */
export function groupedLines<Row>(rows: readonly Row[], group: ((row: Row) => string) | null): Line<Row>[] {
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

/** Line of each row, by the row's place. */
export function lineOfRows<Row>(lines: readonly Line<Row>[]): number[] {
  const out: number[] = [];
  lines.forEach((line, i) => {
    if ('at' in line) out[line.at] = i;
  });
  return out;
}

/** Row that a key leads to, or null where the key moves nothing. @param page rows in sight */
export function rowAfterKey(key: string, active: number, rows: number, page: number): number | null {
  const steps: Record<string, number> = {
    ArrowDown: 1,
    ArrowUp: -1,
    PageDown: page,
    PageUp: -page,
    Home: Number.NEGATIVE_INFINITY,
    End: Number.POSITIVE_INFINITY,
  };
  if (steps[key] === undefined || rows === 0) return null;
  return Math.min(rows - 1, Math.max(0, active + steps[key]));
}
