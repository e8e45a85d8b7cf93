import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { DisjointSet } from '../src/math/disjoint-set.ts';
import { hash01, hashText } from '../src/math/hash.ts';
import { mulberry32, xorshift32 } from '../src/math/random.ts';

describe('sets that are joined', () => {
  test('are those of a plain labelling, and their root is their lowest element', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(19), fc.nat(19)), { maxLength: 30 }), (pairs) => {
        const sets = new DisjointSet(20);
        let label = Array.from({ length: 20 }, (_, i) => i);
        for (const [a, b] of pairs) {
          expect(sets.join(a, b)).toBe(label[a] !== label[b]);
          const [low, high] = [Math.min(label[a], label[b]), Math.max(label[a], label[b])];
          label = label.map((l) => (l === high ? low : l));
        }
        expect(label.map((_, i) => sets.find(i))).toEqual(label);
      }),
    );
  });
});

describe('numbers from a seed', () => {
  test('are the same everywhere: results are stored by their seeds', () => {
    const first = (next: () => number) => [next(), next(), next()].map((v) => Math.round(v * 2 ** 32));
    expect(first(xorshift32(1))).toEqual([270369, 67634689, 2647435461]);
    expect(first(xorshift32(0))).toEqual(first(xorshift32(0x1234567)));
    expect(first(mulberry32(1))).toEqual([2693262067, 11749833, 2265367787]);
    expect(hashText('')).toBe(2166136261);
    expect(hashText('a')).toBe(0xe40c292c);
  });

  test('fill 0 to 1 evenly', () => {
    for (const next of [
      xorshift32(7),
      mulberry32(7),
      (
        (i) => () =>
          hash01(i++, 5)
      )(0),
    ]) {
      const counts = new Array(10).fill(0);
      for (let i = 0; i < 20_000; i++) counts[Math.floor(next() * 10)]++;
      for (const count of counts) expect(Math.abs(count - 2000)).toBeLessThan(200);
    }
  });
});
