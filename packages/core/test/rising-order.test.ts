import fc from 'fast-check';
import { expect, test } from 'vitest';
import { risingOrder } from '../src/math/rising-order.ts';
import { runs } from './sampling.ts';

const sorted = (values: Float64Array) => [...values.keys()].sort((a, b) => values[a] - values[b] || a - b);

test('the order is that of sorting by comparing, equal numbers in the order in which they came', () => {
  const number = fc.oneof(
    fc.double({ min: 0, noNaN: true, noDefaultInfinity: true }),
    fc.constantFrom(0, 5e-324, 1, 1 + 2 ** -52, 2 ** 32, 1e300),
  );
  fc.assert(
    fc.property(fc.float64Array({ min: 0, noNaN: true, noDefaultInfinity: true }), fc.array(number), (some, few) => {
      const values = Float64Array.of(...some.map(Math.abs), ...few, ...few);
      expect([...risingOrder(values)]).toEqual(sorted(values));
    }),
    { numRuns: runs(200) },
  );
});

test('a part of a longer array is sorted by itself', () => {
  const values = Float64Array.of(9, 3, 2, 1, 0).subarray(1, 4);
  expect([...risingOrder(values)]).toEqual([2, 1, 0]);
});
