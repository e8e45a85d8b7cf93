import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { JobView } from '../src/contract/project.ts';
import { numbersOf, queryFor, withValue } from '../src/project/address.ts';
import { finished, windowTitle } from '../src/views/workbench/use-news.ts';

test('a value is set, changed and taken out, and leaves the others alone', () => {
  expect(withValue('', 'table', 'slots')).toBe('?table=slots');
  expect(withValue('?model=2&table=slots', 'table', 'files')).toBe('?model=2&table=files');
  expect(withValue('?table=files', 'table', null)).toBe('');
  fc.assert(
    fc.property(fc.string(), fc.string({ minLength: 1 }), (value, other) => {
      const query = withValue(withValue('', 'a', value), 'b', other);
      expect(new URLSearchParams(withValue(query, 'b', null)).get('a')).toBe(value);
    }),
  );
});

test('a view is found as it was left, with the model and the slots that are selected now', () => {
  expect(queryFor('?picture=proposal&model=1', '?table=slots&model=4&slots=2%2C3')).toBe(
    '?picture=proposal&model=4&slots=2%2C3',
  );
  expect(queryFor('?picture=proposal&model=1', '')).toBe('?picture=proposal');
});

test('numbers in an address: what is none is left out', () => {
  expect(numbersOf('3,x,-1,,12,1.5,7')).toEqual([3, 12, 7]);
  expect(numbersOf(null)).toEqual([]);
});

test('the title of the window says how far the work is', () => {
  expect(windowTitle('Halt', 'plan', null)).toBe('Plan · Halt · Wembrel');
  expect(windowTitle('Halt', 'uv', { share: 0.573 })).toBe('57 % · UV layout · Halt · Wembrel');
});

test('only what ran before and is done now has just ended', () => {
  const jobs = [
    { id: 'a', state: 'done' },
    { id: 'b', state: 'done' },
    { id: 'c', state: 'failed' },
  ] as JobView[];
  expect(
    finished(
      new Map([
        ['a', 0],
        ['c', 0],
      ]),
      jobs,
    ).map(({ id }) => id),
  ).toEqual(['a']);
});
