import fc from 'fast-check';
import { expect, test } from 'vitest';
import { canonicalJson } from '../src/canonical-json.ts';

/** The same value with the keys of all objects put in another order. */
function shuffled(v: unknown): unknown {
  if (Array.isArray(v)) return v.map(shuffled);
  if (typeof v !== 'object' || v === null) return v;
  return Object.fromEntries(
    Object.entries(v)
      .reverse()
      .map(([k, e]) => [k, shuffled(e)]),
  );
}

test('equal values give equal texts, whatever the order of their keys', () => {
  fc.assert(
    fc.property(fc.jsonValue(), (v) => {
      expect(canonicalJson(shuffled(v))).toBe(canonicalJson(v));
      expect(JSON.parse(canonicalJson(v))).toEqual(JSON.parse(JSON.stringify(v)));
    }),
  );
});

test('lists keep their order', () => {
  expect(canonicalJson([2, 1])).not.toBe(canonicalJson([1, 2]));
  expect(canonicalJson({ b: 1, a: { d: 2, c: 3 } })).toBe('{"a":{"c":3,"d":2},"b":1}');
});
