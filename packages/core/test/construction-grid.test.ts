import { ROW } from '@wembrel/kernels/occupancy';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { ChoiceRule } from '../src/pack/choice-rule.ts';
import { type ConstructedPlace, type Construction, ConstructionGrid } from '../src/pack/construction-grid.ts';
import { QUARTERS } from '../src/pack/directions.ts';
import { initialParameters, OrderSearch } from '../src/pack/order-search.ts';
import { changedOrder, initialOrders } from '../src/pack/orders.ts';
import { ScaleTarget } from '../src/pack/scale-target.ts';
import { candidateCost, fullScale } from '../src/pack/search-parameters.ts';
import { SCALE } from '../src/pack/tuning.ts';
import { numbers } from './build.ts';
import { boxField, fieldOf, MARGIN } from './fields.ts';
import { runs } from './sampling.ts';

const never = () => false;

/** Bodies from first to last, the way they are chosen given. */
const inOrder = (order: number[], fit: ChoiceRule | null = null, tilt = 0) => ({
  order,
  tilt,
  keys: Float64Array.from({ length: Math.max(...order) + 1 }, (_, i) => 1 / (2 + order.indexOf(i))),
  fit,
});

/** Not chosen, and chosen among few and among many. */
const fits = fc.constantFrom(
  null,
  { look: 1, bias: 1, band: 0.1 },
  { look: 4, bias: 0.5, band: 0.05 },
  { look: 50, bias: 0.2, band: 0.3 },
);

/** Fronts that run level and at a slant. */
const tilts = fc.constantFrom(0, 1, 200, ROW);

const body = (width: number, height: number, size = 1) => ({
  field: boxField(width, height),
  size,
  directions: QUARTERS,
});

/** Half the box around a body where it stands. */
const reach = (b: ReturnType<typeof body>, constructedPlace: ConstructedPlace, factor = 1) =>
  [
    Math.abs(constructedPlace.c) * b.field.halfWidth + Math.abs(constructedPlace.s) * b.field.halfHeight,
    Math.abs(constructedPlace.s) * b.field.halfWidth + Math.abs(constructedPlace.c) * b.field.halfHeight,
  ].map((v) => v * b.size * factor);

test('boxes are nearer than the margin by less than a cell, and say how much of them lies below the sheet', () => {
  const side = fc.integer({ min: 4, max: 40 });
  fc.assert(
    fc.property(
      fc.array(fc.tuple(side, side), { minLength: 1, maxLength: 30 }),
      fc.constantFrom(1, 2),
      fits,
      tilts,
      (sides, cell, fit, tilt) => {
        const bodies = sides.map(([w, h]) => body(w, h));
        const grid = new ConstructionGrid(bodies, 120, 120, MARGIN, cell, 0.1);
        const order = bodies.map((_, i) => i);
        const { places, sequence } = grid.construct(inOrder(order, fit, tilt), { cancelled: never }) as Construction;
        expect([...sequence].sort((a, b) => a - b)).toEqual(order);
        places.forEach((place, i) => {
          if (!place) return;
          const [rx, ry] = reach(bodies[i], place);
          for (const v of [place.x - rx, 120 - place.x - rx, place.y - ry])
            expect(v).toBeGreaterThan(MARGIN / 2 - cell);
          const below = (place.y + ry + MARGIN / 2 - 120) / (2 * ry);
          if (below > cell / ry) expect(place.over).toBeGreaterThan(0);
          if (below < -cell / ry) expect(place.over).toBe(0);
          if (below > 0 && below < 1) expect(Math.abs(place.over - below)).toBeLessThan((1.5 * cell) / ry);
          places.slice(0, i).forEach((q, j) => {
            if (!q) return;
            const [qx, qy] = reach(bodies[j], q);
            const gap = Math.max(Math.abs(place.x - q.x) - rx - qx, Math.abs(place.y - q.y) - ry - qy);
            expect(gap).toBeGreaterThan(MARGIN - 1.5 * cell);
          });
        });
      },
    ),
    { numRuns: runs(60) },
  );
});

test('enlarged by a factor, shapes stand as they would if they had been made that large', () => {
  const random = numbers(3);
  const sides = Array.from({ length: 40 }, () => [6 + Math.floor(random() * 30), 6 + Math.floor(random() * 30)]);
  const order = sides.map((_, i) => i);
  const factor = 1.03;
  const grown = new ConstructionGrid(
    sides.map(([w, h]) => body(w, h)),
    200,
    200,
    MARGIN,
    1,
    0.1,
  );
  grown.enlarge(factor);
  const larger = new ConstructionGrid(
    sides.map(([w, h]) => body(w, h, factor)),
    200,
    200,
    MARGIN,
    factor,
    0.1,
  );
  const [a, b] = [grown, larger].map(
    (constructionGrid) => (constructionGrid.construct(inOrder(order), { cancelled: never }) as Construction).places,
  );
  const places = (list: (ConstructedPlace | null)[]) => list.filter((constructedPlace) => constructedPlace !== null);
  expect(places(a).length).toBeGreaterThan(30);
  expect(places(a)).toHaveLength(places(b).length);
  // Both have cells of the same size; only margins could differ, by 0.06 cells.
  a.forEach((constructedPlace, i) => {
    expect([constructedPlace?.x, constructedPlace?.y]).toEqual([
      expect.closeTo(b[i]?.x as number, 6),
      expect.closeTo(b[i]?.y as number, 6),
    ]);
  });
});

test('a drawing that begins like one from before is the same as one drawn anew, and is given up when too much is missing', () => {
  const side = fc.integer({ min: 4, max: 40 });
  fc.assert(
    fc.property(
      fc.array(fc.tuple(side, side), { minLength: 2, maxLength: 30 }),
      fc.integer({ min: 1, max: 1e9 }),
      fits,
      tilts,
      (sides, seed, fit, tilt) => {
        const grid = new ConstructionGrid(
          sides.map(([w, h]) => body(w, h)),
          100,
          100,
          MARGIN,
          1,
          0.1,
        );
        const order = sides.map((_, i) => i);
        const before = grid.construct(inOrder(order, fit, tilt), { cancelled: never }) as Construction;
        const random = numbers(seed);
        const [a, b] = [0, 1].map(() => Math.floor(random() * order.length));
        const other = order.slice();
        [other[a], other[b]] = [order[b], order[a]];
        // Keys stay with their places in the order: those of the two are changed.
        const changed = inOrder(other, fit, tilt);
        const fresh = grid.construct(changed, { cancelled: never }) as Construction;
        expect(grid.construct(changed, { cancelled: never, like: before })).toEqual(fresh);
        expect(grid.construct(changed, { cancelled: never, like: before, most: fresh.missing })).toEqual(fresh);
        const missing = sides.reduce((sum, [w, h], i) => sum + (fresh.places[i]?.over ?? 1) * w * h, 0);
        expect(fresh.missing).toBeCloseTo(missing, 3);
        if (missing > 0)
          expect(grid.construct(changed, { cancelled: never, like: before, most: fresh.missing * 0.999 })).toBeNull();
        // On other cells nothing of it is taken over.
        grid.enlarge(1.1);
        const larger = grid.construct(changed, { cancelled: never });
        expect(grid.construct(changed, { cancelled: never, like: before })).toEqual(larger);
      },
    ),
    { numRuns: runs(60) },
  );
});

test('equal squares fill a sheet along its front, level or aslant, and what has no room comes last', () => {
  const bodies = Array.from({ length: 20 }, () => body(18, 18));
  const order = bodies.map((_, i) => i);
  for (const tilt of [0, 100, 512, ROW, 3 * ROW]) {
    // Room for four times four with their margins.
    const grid = new ConstructionGrid(bodies, 81, 81, MARGIN, 1, 0.1);
    const { places } = grid.construct(inOrder(order, null, tilt), { cancelled: never }) as Construction;
    const on = places.slice(0, 16).map((place) => place as ConstructedPlace);
    for (const constructedPlace of on) expect(constructedPlace.over).toBe(0);
    for (const place of places.slice(16)) expect(place === null || place.over > 0).toBe(true);
    const along = on.map((constructedPlace) => ROW * constructedPlace.y + tilt * constructedPlace.x);
    expect(along).toEqual([...along].sort((a, b) => a - b));
    // As far right as down in the end, however the front runs.
    for (const axis of ['x', 'y'] as const)
      expect(Math.max(...on.map((constructedPlace) => constructedPlace[axis]))).toBeGreaterThan(68);
  }
});

test('directions that give the same cells count once', () => {
  const ell = Float64Array.of(
    -10,
    -10,
    10,
    -10,
    10,
    -4,
    -10,
    -10,
    10,
    -4,
    -10,
    -4,
    -10,
    -4,
    -4,
    -4,
    -4,
    10,
    -10,
    -4,
    -4,
    10,
    -10,
    10,
  );
  const field = fieldOf(ell);
  const bodies = [body(20, 20), body(30, 12), { ...body(1, 1), field }];
  const grid = new ConstructionGrid(bodies, 200, 200, MARGIN, 1, 0.1);
  expect(bodies.map((_, i) => grid.masksOf(i).length)).toEqual([1, 2, 4]);
});

test('an order is changed for what had no room: it comes sooner, all others stay', () => {
  const fields = [boxField(10, 30), boxField(20, 20), boxField(8, 8)];
  for (const keys of initialOrders(fields)) expect(keys.reduce((x, y) => x + y, 0) / 3).toBeCloseTo(1, 9);
  const [keys] = initialOrders(fields);
  let sooner = 0;
  for (let seed = 1; seed <= 60; seed++) {
    const next = changedOrder(keys, [2], seed, numbers(seed));
    if (next[0] === keys[0] && next[1] === keys[1] && next[2] > keys[2]) sooner++;
    else expect(next).not.toEqual(keys);
  }
  expect(sooner).toBeGreaterThan(15);
});

test('of those that come next, the one that fits most closely is taken; what counts less has to fit better', () => {
  // A gap of 20 px between two posts: the body that fills it comes third.
  const sides = [
    [40, 60],
    [36, 60],
    [14, 30],
    [20 - 2 * MARGIN, 30],
    [14, 28],
  ];
  const bodies = sides.map(([w, h], i) => ({
    ...body(w, h),
    directions: QUARTERS.slice(0, 1),
    ...(i < 2 ? { fixed: { x: i === 0 ? 21 : 79, y: 31, c: 1, s: 0 } } : {}),
  }));
  const candidate = (fit: ChoiceRule | null) => {
    const grid = new ConstructionGrid(bodies, 98, 120, MARGIN, 1, 0.1);
    return grid.construct(inOrder([2, 3, 4], fit), { cancelled: never }) as Construction;
  };
  expect(candidate(null).sequence).toEqual([2, 3, 4]);
  expect(candidate({ look: 3, bias: 0, band: 0.5 }).sequence[0]).toBe(3);
  expect(candidate({ look: 1, bias: 0, band: 0.5 }).sequence[0]).toBe(2);
  expect(candidate({ look: 3, bias: 100, band: 0.5 }).sequence[0]).toBe(2);
});

test('a hunt begins with what was good, holds on to what leaves out least, and goes on from elsewhere after a while', () => {
  const sides = Array.from({ length: 12 }, (_, i) => [8 + i, 20 - i]);
  const bodies = sides.map(([w, h]) => body(w, h));
  const fields = bodies.map((body) => body.field);
  const grid = new ConstructionGrid(bodies, 40, 40, MARGIN, 1, 0.1);
  const [lead] = initialParameters(initialOrders(fields));
  const orderSearch = new OrderSearch(1, grid, 1, lead, numbers(5), initialParameters(initialOrders(fields)));
  expect(orderSearch.next()).toEqual({ parameters: lead, anew: false });
  const order = sides.map((_, i) => i);
  const construction = grid.construct({ order, ...lead }, { cancelled: never }) as Construction;
  const candidate = (missing: number) => ({ ...lead, construction, missing, late: [3] });
  expect(orderSearch.keep(candidate(0.2), false)).toBe(true);
  expect(orderSearch.keep(candidate(0.2), false)).toBe(false);
  expect(orderSearch.keep(candidate(0.1), false)).toBe(true);
  const next = Array.from({ length: 80 }, () => orderSearch.next());
  const anew = next.findIndex((n) => n.anew);
  expect(anew).toBe(61);
  for (const { parameters } of next.slice(0, anew))
    expect(parameters.fit === lead.fit && parameters.keys === lead.keys).toBe(false);
  expect(new Set(next.map((n) => n.parameters.fit)).size).toBeGreaterThan(3);
});

test('what is hunted for lies above all that has room, and comes nearer to it when nothing is found', () => {
  const scales = fc.double({ min: 0.5, max: 2, noNaN: true });
  fc.assert(
    fc.property(scales, scales, scales, (reached, had, asked) => {
      const target = new ScaleTarget();
      expect(target.above(reached)).toBeCloseTo(reached * (1 + SCALE.step), 12);
      const sketched = Math.max(reached, had);
      target.had(had);
      target.at(asked, reached);
      expect(target.scale).toBeGreaterThanOrEqual(sketched * (1 + SCALE.step));
      if (asked > sketched * (1 + SCALE.step)) expect(target.scale).toBeLessThanOrEqual(asked);
      for (let k = 0; k < 40; k++) {
        const was = target.scale;
        target.lower(reached);
        expect(target.scale).toBeLessThanOrEqual(was);
      }
      expect(target.scale).toBeLessThanOrEqual(sketched * (1 + 1.5 * SCALE.step) + 1e-12);
      expect(target.isFar(reached)).toBe(false);
    }),
  );
});

test('a sketch that ends half-way down could be larger by the root of two; what found no room weighs more than what is filled', () => {
  const bodies = [body(40, 20), body(40, 20)];
  const grid = new ConstructionGrid(bodies, 86, 42, MARGIN, 1, 0.1);
  const construction = grid.construct(inOrder([0, 1]), { cancelled: never }) as Construction;
  const candidate = (missing: number) => ({ construction, missing, late: [], ...inOrder([0, 1]) });
  expect(Math.abs(fullScale(candidate(0), 3) - 3 * Math.SQRT2)).toBeLessThan(0.15);
  expect(candidateCost(candidate(0.01)) - candidateCost(candidate(0))).toBeGreaterThan(0.01);
});
