import { expect, test } from 'vitest';
import type { PackedSheet } from '../src/contract/plots.ts';
import { NOTHING_PACKED, nextPacking, type PackingEvent } from '../src/project/packing/packing-state.ts';

const sheet = (name: string) => ({ name }) as PackedSheet;
const after = (...events: PackingEvent[]) => events.reduce(nextPacking, NOTHING_PACKED);
const rows = (index: number): PackingEvent => ({ type: 'inRows', count: 2, index, sheet: sheet(`rows ${index}`) });
const better = (index: number, name: string): PackingEvent => ({
  type: 'better',
  count: 2,
  index,
  sheet: sheet(name),
  seconds: 1,
});
const done: PackingEvent = { type: 'done', key: 'k', sheets: [sheet('a'), sheet('b')], seconds: 2 };
const names = (early: readonly (PackedSheet | null)[]) => early.map((one) => one?.name ?? null);

test('packed for the first time, each sheet shows rows, then its layouts as they are found', () => {
  expect(names(after({ type: 'begun' }, rows(1)).early)).toEqual([null, 'rows 1']);
  expect(names(after({ type: 'begun' }, rows(1), better(1, 'first'), rows(1)).early)).toEqual([null, 'first']);
  const whole = after({ type: 'begun' }, rows(0), better(1, 'first'), done);
  expect([whole.early, whole.share, whole.key]).toEqual([[], null, 'k']);
  expect(whole.sheets?.map(({ name }) => name)).toEqual(['a', 'b']);
});

test('packed again, rows never take the place of a layout, and the others stay', () => {
  const again = after(done, { type: 'begun' }, rows(0), better(1, 'tighter'));
  expect(again.sheets?.map(({ name }) => name)).toEqual(['a', 'tighter']);
  expect([again.early, again.share]).toEqual([[], 0]);
});

test('with another number of sheets nothing of before is shown as theirs', () => {
  const other = after(done, { type: 'begun' }, { ...better(2, 'third'), count: 3 } as PackingEvent);
  expect(names(other.early)).toEqual([null, null, 'third']);
  expect(other.sheets).toHaveLength(2);
});

test('what failed shows nothing half done, and says why; a failed search keeps what there was', () => {
  const failed = after({ type: 'begun' }, rows(0), { type: 'failed', problem: 'no room' });
  expect(failed).toMatchObject({ early: [], share: null, problem: 'no room', sheets: null });
  const search = after(done, { type: 'searchFailed', problem: 'gone' });
  expect(search.sheets).toHaveLength(2);
  expect(search.problem).toBe('gone');
});
