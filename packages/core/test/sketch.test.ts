import { borderEdges, distanceField } from '@wembrel/kernels/field';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { QUARTERS } from '../src/pack/directions.ts';
import { changedOrder, usualOrders } from '../src/pack/orders.ts';
import { type Drawing, Sketch, type SketchPlace } from '../src/pack/sketch.ts';
import { numbers } from './build.ts';

const MARGIN = 2;
const never = () => false;

/** The field of a rectangle. */
function box(width: number, height: number) {
  const [x, y] = [width / 2, height / 2];
  const shape = Float64Array.from([-x, -y, x, -y, x, y, -x, -y, x, y, -x, y]);
  return distanceField(shape, borderEdges(shape), { step: 1, band: MARGIN + 1.1, spacing: 5, tolerance: 0.05 });
}

const body = (width: number, height: number, size = 1) => ({ field: box(width, height), size, directions: QUARTERS });

/** Half the box around a body where it stands. */
const reach = (b: ReturnType<typeof body>, p: SketchPlace, factor = 1) =>
  [
    Math.abs(p.c) * b.field.halfWidth + Math.abs(p.s) * b.field.halfHeight,
    Math.abs(p.s) * b.field.halfWidth + Math.abs(p.c) * b.field.halfHeight,
  ].map((v) => v * b.size * factor);

test('boxes are nearer than the margin by less than a cell, and say how much of them lies below the sheet', () => {
  const side = fc.integer({ min: 4, max: 40 });
  fc.assert(
    fc.property(
      fc.array(fc.tuple(side, side), { minLength: 1, maxLength: 30 }),
      fc.constantFrom(1, 2),
      (sides, cell) => {
        const bodies = sides.map(([w, h]) => body(w, h));
        const sketch = new Sketch(bodies, 120, 120, MARGIN, cell, 0.1);
        const order = bodies.map((_, i) => i);
        const { places } = sketch.draw(order, { cancelled: never }) as Drawing;
        places.forEach((p, i) => {
          if (!p) return;
          const [rx, ry] = reach(bodies[i], p);
          for (const v of [p.x - rx, 120 - p.x - rx, p.y - ry]) expect(v).toBeGreaterThan(MARGIN / 2 - cell);
          const below = (p.y + ry + MARGIN / 2 - 120) / (2 * ry);
          if (below > cell / ry) expect(p.over).toBeGreaterThan(0);
          if (below < -cell / ry) expect(p.over).toBe(0);
          if (below > 0 && below < 1) expect(Math.abs(p.over - below)).toBeLessThan((1.5 * cell) / ry);
          places.slice(0, i).forEach((q, j) => {
            if (!q) return;
            const [qx, qy] = reach(bodies[j], q);
            const gap = Math.max(Math.abs(p.x - q.x) - rx - qx, Math.abs(p.y - q.y) - ry - qy);
            expect(gap).toBeGreaterThan(MARGIN - 1.5 * cell);
          });
        });
      },
    ),
    { numRuns: 60 },
  );
});

test('enlarged by a factor, shapes stand as they would if they had been made that large', () => {
  const random = numbers(3);
  const sides = Array.from({ length: 40 }, () => [6 + Math.floor(random() * 30), 6 + Math.floor(random() * 30)]);
  const order = sides.map((_, i) => i);
  const factor = 1.03;
  const grown = new Sketch(
    sides.map(([w, h]) => body(w, h)),
    200,
    200,
    MARGIN,
    1,
    0.1,
  );
  grown.enlarge(factor);
  const larger = new Sketch(
    sides.map(([w, h]) => body(w, h, factor)),
    200,
    200,
    MARGIN,
    factor,
    0.1,
  );
  const [a, b] = [grown, larger].map((s) => (s.draw(order, { cancelled: never }) as Drawing).places);
  const places = (list: (SketchPlace | null)[]) => list.filter((p) => p !== null);
  expect(places(a).length).toBeGreaterThan(30);
  expect(places(a)).toHaveLength(places(b).length);
  // Both have cells of the same size; only margins could differ, by 0.06 cells.
  a.forEach((p, i) => {
    expect([p?.x, p?.y]).toEqual([expect.closeTo(b[i]?.x as number, 6), expect.closeTo(b[i]?.y as number, 6)]);
  });
});

test('a drawing that begins like one from before is the same as one drawn anew, and is given up when too much is missing', () => {
  const side = fc.integer({ min: 4, max: 40 });
  fc.assert(
    fc.property(
      fc.array(fc.tuple(side, side), { minLength: 2, maxLength: 30 }),
      fc.integer({ min: 1, max: 1e9 }),
      (sides, seed) => {
        const sketch = new Sketch(
          sides.map(([w, h]) => body(w, h)),
          100,
          100,
          MARGIN,
          1,
          0.1,
        );
        const order = sides.map((_, i) => i);
        const before = sketch.draw(order, { cancelled: never }) as Drawing;
        const random = numbers(seed);
        const [a, b] = [0, 1].map(() => Math.floor(random() * order.length));
        const other = order.slice();
        [other[a], other[b]] = [order[b], order[a]];
        const fresh = sketch.draw(other, { cancelled: never }) as Drawing;
        expect(sketch.draw(other, { cancelled: never, like: before })).toEqual(fresh);
        expect(sketch.draw(other, { cancelled: never, like: before, most: fresh.missing })).toEqual(fresh);
        const missing = sides.reduce((n, [w, h], i) => n + (fresh.places[i]?.over ?? 1) * w * h, 0);
        expect(fresh.missing).toBeCloseTo(missing, 3);
        if (missing > 0)
          expect(sketch.draw(other, { cancelled: never, like: before, most: fresh.missing * 0.999 })).toBeNull();
        // On other cells nothing of it is taken over.
        sketch.enlarge(1.1);
        const larger = sketch.draw(other, { cancelled: never });
        expect(sketch.draw(other, { cancelled: never, like: before })).toEqual(larger);
      },
    ),
    { numRuns: 60 },
  );
});

test('an order is changed for what had no room: it comes sooner, all others stay', () => {
  const fields = [box(10, 30), box(20, 20), box(8, 8)];
  for (const keys of usualOrders(fields)) expect(keys.reduce((x, y) => x + y, 0) / 3).toBeCloseTo(1, 9);
  const [keys] = usualOrders(fields);
  let sooner = 0;
  for (let seed = 1; seed <= 60; seed++) {
    const next = changedOrder(keys, [2], seed, numbers(seed));
    if (next[0] === keys[0] && next[1] === keys[1] && next[2] > keys[2]) sooner++;
    else expect(next).not.toEqual(keys);
  }
  expect(sooner).toBeGreaterThan(15);
});
