import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  mapAfter,
  mapInBox,
  mapPoint,
  mapPoints,
  movedMap,
  type Turned,
  turnedBox,
  turnedBy,
} from '../src/pack/placed-map.ts';
import type { Turns } from '../src/pack/rasterise.ts';

const quarters = fc.constantFrom(0, 1, 2, 3).map((turns): Turned => ({ turns: turns as Turns }));
const angles = fc
  .double({ min: -3, max: 3, noNaN: true })
  .map((angle): Turned => ({ turns: 0, direction: [Math.cos(angle), Math.sin(angle)] }));
const sides = fc.tuple(fc.integer({ min: 1, max: 4096 }), fc.integer({ min: 1, max: 4096 }));
const corners = ([w, h]: [number, number]) => [0, 0, w, 0, w, h, 0, h];
const column = (points: Float64Array, from: number) => [...points].filter((_, i) => i % 2 === from);

test('a turned box starts at the origin and is as large as said', () => {
  fc.assert(
    fc.property(fc.oneof(quarters, angles), sides, (turned, box) => {
      const points = mapPoints(mapInBox(box, turned), Float64Array.from(corners(box)));
      const [w, h] = turnedBox(box, turned);
      expect(Math.min(...column(points, 0))).toBeCloseTo(0, 8);
      expect(Math.min(...column(points, 1))).toBeCloseTo(0, 8);
      expect(Math.max(...column(points, 0))).toBeCloseTo(w, 8);
      expect(Math.max(...column(points, 1))).toBeCloseTo(h, 8);
    }),
  );
});

test('quarter turns are exact: whole texels stay whole, and four of them are none', () => {
  fc.assert(
    fc.property(quarters, sides, fc.nat(4096), fc.nat(4096), (turned, box, x, y) => {
      const [px, py] = mapPoint(mapInBox(box, turned), x, y);
      expect([px, py]).toEqual([Math.round(px), Math.round(py)]);
      let at: [number, number] = [x, y];
      for (const side of [box, [box[1], box[0]], box, [box[1], box[0]]] as const)
        at = mapPoint(mapInBox(side, { turns: 1 }), ...at);
      expect(at).toEqual([x, y]);
    }),
  );
});

test('none mirrors: the turning sense of a triangle stays', () => {
  fc.assert(
    fc.property(fc.oneof(quarters, angles), sides, (turned, box) => {
      const [ax, ay, bx, by, cx, cy] = mapPoints(mapInBox(box, turned), [0, 0, 1, 0, 0, 1]);
      expect((bx - ax) * (cy - ay) - (cx - ax) * (by - ay)).toBeCloseTo(1, 8);
    }),
  );
});

test('one map after another is both in turn', () => {
  const map = fc
    .tuple(fc.oneof(quarters, angles), sides, fc.double({ min: 0.01, max: 8, noNaN: true }), fc.nat(500), fc.nat(500))
    .map(([turned, box, scale, x, y]) => movedMap(mapInBox(box, turned, scale), x, y));
  fc.assert(
    fc.property(map, map, fc.nat(999), fc.nat(999), (first, second, x, y) => {
      const both = mapPoint(mapAfter(first, second), x, y);
      const inTurn = mapPoint(second, ...mapPoint(first, x, y));
      both.forEach((value, k) => {
        expect(Math.abs(value - inTurn[k])).toBeLessThan(1e-6 * (1 + Math.abs(inTurn[k])));
      });
    }),
  );
});

test('a direction is written as quarters only where it is one', () => {
  expect(turnedBy(0, 1)).toEqual({ turns: 1 });
  expect(turnedBy(-1, 1e-12)).toEqual({ turns: 2 });
  expect(turnedBy(0.6, 0.8)).toEqual({ turns: 0, direction: [0.6, 0.8] });
});
