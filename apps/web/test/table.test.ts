import { describe, expect, test } from 'vitest';
import { groupedLines, lineOfRows, rowAfterKey } from '../src/ui/table/grouped-lines.ts';
import { compareValues, holdsWords } from '../src/ui/table/use-table-rows.ts';

describe('tables', () => {
  test('groups stand in the order of their first rows, and rows know their lines', () => {
    const lines = groupedLines(['b1', 'a1', 'b2', 'a2'], (row) => row[0]);
    expect(lines).toEqual([
      { title: 'b', count: 2 },
      { row: 'b1', at: 0 },
      { row: 'b2', at: 2 },
      { title: 'a', count: 2 },
      { row: 'a1', at: 1 },
      { row: 'a2', at: 3 },
    ]);
    expect(lineOfRows(lines)).toEqual([1, 4, 2, 5]);
    expect(lineOfRows(groupedLines(['x', 'y'], null))).toEqual([0, 1]);
  });

  test('keys move by rows and pages, and never out of the table', () => {
    expect(rowAfterKey('ArrowDown', 3, 5, 10)).toBe(4);
    expect(rowAfterKey('ArrowDown', 4, 5, 10)).toBe(4);
    expect(rowAfterKey('PageUp', 12, 50, 10)).toBe(2);
    expect(rowAfterKey('End', 0, 50, 10)).toBe(49);
    expect(rowAfterKey('Home', 49, 50, 10)).toBe(0);
    expect(rowAfterKey('x', 0, 50, 10)).toBeNull();
    expect(rowAfterKey('End', 0, 0, 10)).toBeNull();
  });

  test('texts are ordered as people count', () => {
    expect(['leaf 10', 'leaf 2', 'Leaf 1'].sort(compareValues)).toEqual(['Leaf 1', 'leaf 2', 'leaf 10']);
    expect([10, 9, -1].sort(compareValues)).toEqual([-1, 9, 10]);
  });

  test('words of a filter may stand in different cells', () => {
    const columns = [
      { key: 'a', title: 'A', width: '1fr', value: (row: { a: string; n: number }) => row.a },
      { key: 'n', title: 'N', width: '1fr', value: (row: { a: string; n: number }) => row.n },
    ];
    const row = { a: 'Oak bench', n: 512 };
    expect(holdsWords(row, columns, 'BENCH 512')).toBe(true);
    expect(holdsWords(row, columns, 'bench 256')).toBe(false);
    expect(holdsWords(row, columns, '  ')).toBe(true);
  });
});
