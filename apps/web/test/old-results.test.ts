import fc from 'fast-check';
import { expect, test } from 'vitest';
import { resultsToClear, type StoredResult } from '../src/server/jobs/old-results.ts';

const result = (id: string, more: Partial<StoredResult> = {}): StoredResult => ({
  id,
  project: 'p',
  kind: 'final',
  sheet: null,
  bytes: 10,
  used: 0,
  current: false,
  removed: false,
  ...more,
});

test('within the bound nothing goes', () => {
  expect(resultsToClear([result('a'), result('b')], 20)).toEqual([]);
});

test('what was not used for longest goes first; the newest of its kind and what is current stay', () => {
  const all = [
    result('newest', { used: 1 }),
    result('looked at', { used: 9 }),
    result('current', { current: true }),
    result('old', { used: 2 }),
    result('older', { used: 1 }),
    result('proof', { kind: 'proof' }),
    result('other project', { project: 'q' }),
  ];
  expect(resultsToClear(all, 60)).toEqual(['older', 'old']);
  expect(resultsToClear(all, 1)).toEqual(['older', 'old', 'looked at']);
});

test('what was taken out by hand goes before all else, and is nobody’s newest', () => {
  const all = [result('removed', { removed: true, used: 9 }), result('kept'), result('old', { used: 1 })];
  expect(resultsToClear(all, 25)).toEqual(['removed']);
});

test('whatever there is: never more goes than has to, and what stays is within the bound if it can be', () => {
  const one = fc.record({
    project: fc.constantFrom('p', 'q'),
    kind: fc.constantFrom('proof', 'final'),
    sheet: fc.constantFrom(null, 's'),
    bytes: fc.integer({ min: 0, max: 50 }),
    used: fc.integer({ min: 0, max: 9 }),
    current: fc.boolean(),
    removed: fc.boolean(),
  });
  fc.assert(
    fc.property(fc.array(one, { maxLength: 20 }), fc.integer({ min: 1, max: 300 }), (list, bound) => {
      const all = list.map((each, i) => ({ id: `${i}`, ...each }));
      const gone = new Set(resultsToClear(all, bound));
      const sum = (of: readonly StoredResult[]) => of.reduce((total, { bytes }) => total + bytes, 0);
      const stays = all.filter(({ id }) => !gone.has(id));
      expect(stays).toEqual(expect.arrayContaining(all.filter((each) => each.current && !each.removed)));
      if (sum(all) <= bound) expect(gone.size).toBe(0);
      const keys = (of: StoredResult[]) =>
        new Set(of.filter((each) => !each.removed).map(({ project, kind, sheet }) => `${project} ${kind} ${sheet}`));
      expect(keys(stays)).toEqual(keys(all));
      // Without the last one that went it would still be too much.
      const last = [...gone].pop();
      if (last !== undefined) expect(sum(stays) + all[Number(last)].bytes).toBeGreaterThan(bound * 0.9);
    }),
  );
});
