import { expect, test } from 'vitest';
import { combined, visible } from '../src/views/uv/faces/combine-faces.ts';

const of = (...bits: number[]) => Uint8Array.from(bits);

test('a set takes the place of what was selected, comes to it, or is taken off', () => {
  const [old, set] = [of(1, 1, 0, 0), of(0, 1, 1, 0)];
  expect(combined(old, set, { add: false, remove: false })).toEqual(set);
  expect(combined(old, set, { add: true, remove: false })).toEqual(of(1, 1, 1, 0));
  expect(combined(old, set, { add: false, remove: true })).toEqual(of(1, 0, 0, 0));
});

test('a set of another model takes the place of what was selected, whatever the keys', () => {
  expect(combined(of(1, 1), of(0, 1, 0), { add: true, remove: false })).toEqual(of(0, 1, 0));
});

test('what is hidden is in no set', () => {
  expect(visible(of(1, 1, 0), of(0, 1, 1))).toEqual(of(1, 0, 0));
  expect(visible(of(1, 1, 0), null)).toEqual(of(1, 1, 0));
});
