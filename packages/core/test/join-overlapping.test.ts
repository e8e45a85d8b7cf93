import fc from 'fast-check';
import { expect, test } from 'vitest';
import { DisjointSet } from '../src/math/disjoint-set.ts';
import { joinOverlapping } from '../src/mesh/join-overlapping.ts';
import { trianglesOverlap } from '../src/mesh/overlap.ts';

const setsOf = (sets: DisjointSet, count: number) => Array.from({ length: count }, (_, i) => sets.find(i));

test('sets of triangles that overlap are joined as comparing every pair would join them', () => {
  // Whole numbers and halves: many share sides and corners, or lie on each other.
  const place = fc.integer({ min: 0, max: 40 }).map((v) => v / 2);
  const triangle = fc.tuple(place, place, fc.array(fc.integer({ min: -9, max: 9 }), { minLength: 4, maxLength: 4 }));
  fc.assert(
    fc.property(fc.array(fc.tuple(triangle, fc.nat(11)), { minLength: 1, maxLength: 60 }), (list) => {
      const all = Float64Array.from(list.flatMap(([[x, y, [a, b, c, d]]]) => [x, y, x + a, y + b, x + c, y + d]));
      const owner = list.map(([, set]) => set);
      const [ours, plain] = [new DisjointSet(12), new DisjointSet(12)];
      joinOverlapping(all, owner, ours, 0.05);
      for (let i = 0; i < owner.length; i++)
        for (let j = 0; j < i; j++)
          if (owner[i] !== owner[j] && trianglesOverlap(all, i * 6, all, j * 6, 0.05)) plain.join(owner[i], owner[j]);
      expect(setsOf(ours, 12)).toEqual(setsOf(plain, 12));
    }),
  );
});

test('triangles whose boxes share no more than the depth only touch', () => {
  const [a, b] = [Float64Array.of(0, 0, 2, 0, 0, 2), Float64Array.of(1.96, 0, 4, 0, 4, 3)];
  expect(trianglesOverlap(a, 0, b, 0, 0.05)).toBe(false);
  expect(trianglesOverlap(a, 0, b, 0, 0.01)).toBe(true);
});
