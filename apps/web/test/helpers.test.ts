import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { APART } from '@wembrel/core/decisions/rules';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { byReason } from '../src/project/by-reason.ts';
import { routeLabel, withNewSheet, withoutSheet, withRoutes, withSheet } from '../src/project/change-plan.ts';
import { isViewName, VIEW_TITLES, VIEWS } from '../src/project/stages.ts';
import { bytes, count, counted, decibels, indexColour, percent } from '../src/ui/format.ts';

describe('figures as people read them', () => {
  test('thousands are parted, units are always there', () => {
    expect(count(1234567)).toBe('1\u2009234\u2009567');
    expect(count(999)).toBe('999');
    expect(bytes(0)).toBe('0 B');
    expect(bytes(1536)).toBe('1.5 KiB');
    expect(bytes(5 * 1024 ** 2)).toBe('5.0 MiB');
    expect(bytes(3 * 1024 ** 3)).toBe('3.00 GiB');
    expect(percent(0.1234, 1)).toBe('12.3 %');
    expect(decibels(null)).toBe('identical');
    expect(decibels(41.26)).toBe('41.3 dB');
  });

  test('what is counted agrees with its number', () => {
    expect([0, 1, 2].map((n) => counted(n, 'bay'))).toEqual(['0 bays', '1 bay', '2 bays']);
    expect(counted(12345, 'entry', 'entries')).toBe('12\u2009345 entries');
  });

  test('neighbouring colours are far apart', () => {
    const hue = (i: number) => Number(/(\S+)\)$/.exec(indexColour(i))?.[1]);
    for (let i = 0; i < 30; i++) {
      const d = Math.abs(hue(i + 1) - hue(i)) % 360;
      expect(Math.min(d, 360 - d)).toBeGreaterThan(120);
    }
  });
});

describe('changes of the plan', () => {
  const start = MergeDecisions.parse({});
  const names = fc.uniqueArray(fc.constantFrom('a', 'b', 'c', 'd'), { minLength: 1 });

  test('whatever is clicked, the plan stays a valid one', () => {
    const act = fc.oneof(
      fc.constant({ kind: 'add' as const }),
      fc.record({ kind: fc.constant('remove' as const), at: fc.nat(15) }),
      fc.record({ kind: fc.constant('route' as const), names, at: fc.integer({ min: -2, max: 15 }) }),
      fc.record({ kind: fc.constant('size' as const), at: fc.nat(15), power: fc.integer({ min: 6, max: 13 }) }),
    );
    fc.assert(
      fc.property(fc.array(act, { maxLength: 25 }), (acts) => {
        let decisions = start;
        for (const act of acts) {
          const sheet = 'at' in act && act.at >= 0 ? decisions.sheets[act.at % decisions.sheets.length] : undefined;
          if (act.kind === 'add' && decisions.sheets.length < 16) decisions = withNewSheet(decisions);
          else if (act.kind === 'remove' && decisions.sheets.length > 1 && sheet)
            decisions = withoutSheet(decisions, sheet.id);
          else if (act.kind === 'route')
            decisions = withRoutes(decisions, act.names, sheet?.id ?? (act.at === -1 ? APART : null));
          else if (act.kind === 'size' && sheet) decisions = withSheet(decisions, sheet.id, { size: 2 ** act.power });
          const checked = MergeDecisions.safeParse(decisions);
          expect(checked.error?.issues ?? []).toEqual([]);
        }
      }),
    );
  });

  test('routing and taking the route away again leaves nothing behind', () => {
    fc.assert(
      fc.property(names, (list) => {
        expect(withRoutes(withRoutes(start, list, APART), list, null)).toEqual(start);
      }),
    );
  });

  test('a removed sheet takes its routes along and leaves the others', () => {
    const two = withRoutes(withRoutes(withNewSheet(start), ['a'], '2'), ['b'], '1');
    expect(withoutSheet(two, '2').routes).toEqual([{ slot: 'b', to: '1' }]);
  });

  test('each change says what it does', () => {
    const two = withNewSheet(start);
    expect(two.sheets.map((sheet) => sheet.name)).toEqual(['sheet', 'sheet_2']);
    expect(routeLabel(two, ['a'], '2')).toBe('Route a to sheet_2');
    expect(routeLabel(two, ['a', 'b'], APART)).toBe('Keep 2 slots apart');
    expect(routeLabel(two, ['a'], null)).toBe('Leave a to be spread');
  });
});

test('every stage has a title and an address', () => {
  expect(VIEWS).toHaveLength(6);
  for (const v of VIEWS) expect(VIEW_TITLES[v]).toBeTruthy();
  expect(isViewName('plan')).toBe(true);
  expect(isViewName('elsewhere')).toBe(false);
  expect(isViewName(undefined)).toBe(false);
});

test('what is kept apart for one reason stands together, in the order of the first', () => {
  const list = [
    { slot: 'A', reason: 'glass' },
    { slot: 'B', reason: 'repeats' },
    { slot: 'C', reason: 'glass' },
  ];
  expect(byReason(list).map(({ reason, entries }) => [reason, entries.map((entry) => entry.slot)])).toEqual([
    ['glass', ['A', 'C']],
    ['repeats', ['B']],
  ]);
});
