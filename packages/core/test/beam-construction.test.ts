import { ROW } from '@wembrel/kernels/occupancy';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { constructBeam } from '../src/pack/beam-construction.ts';
import { BeamSearch } from '../src/pack/beam-search.ts';
import { type ConstructedPlace, type Construction, ConstructionGrid } from '../src/pack/construction-grid.ts';
import { QUARTERS } from '../src/pack/directions.ts';
import { initialOrders } from '../src/pack/orders.ts';
import { candidateCost } from '../src/pack/search-parameters.ts';
import { numbers } from './build.ts';
import { boxField, MARGIN, wedgeField } from './fields.ts';
import { runs } from './sampling.ts';

const SIDE = 120;
const never = () => false;

const bodiesOf = (sides: readonly (readonly [number, number])[]) =>
  sides.map(([w, h], i) => ({ field: i % 2 ? wedgeField(w, h) : boxField(w, h), size: 1, directions: QUARTERS }));

const side = fc.integer({ min: 6, max: 44 });
const scene = fc.record({
  sides: fc.array(fc.tuple(side, side), { minLength: 2, maxLength: 24 }),
  fit: fc.record({
    look: fc.integer({ min: 1, max: 12 }),
    bias: fc.double({ min: 0.1, max: 2, noNaN: true }),
    band: fc.double({ min: 0, max: 0.2, noNaN: true }),
  }),
  tilt: fc.constantFrom(0, 90, 300, ROW),
  holds: fc.boolean(),
});

/** A sheet for bodies, the first of which may stand already, and how they are drawn. */
function begun({ sides, fit, tilt, holds }: { sides: [number, number][]; fit: Fitting; tilt: number; holds: boolean }) {
  const bodies = bodiesOf(sides).map((body, i) =>
    holds && i === 0 ? { ...body, fixed: { x: 60, y: 50, c: 1, s: 0 } } : body,
  );
  const grid = new ConstructionGrid(bodies, SIDE, SIDE, MARGIN, 1, 0.1);
  const keys = Float64Array.from(sides, ([w, h]) => Math.sqrt(w * h) / 20);
  const order = sides.map((_, i) => i).sort((a, b) => keys[b] - keys[a] || a - b);
  return { grid, what: { order, keys, fit, tilt } };
}
type Fitting = { look: number; bias: number; band: number };

const spotsOf = ({ spots }: Construction) => spots.map((spot) => spot && [spot.x, spot.y, ...spot.mask.direction]);

test('one sheet that goes on in one way is the sketch as it is drawn alone', () => {
  fc.assert(
    fc.property(scene, (s) => {
      const { grid, what } = begun(s);
      const alone = grid.construct(what, { cancelled: never }) as Construction;
      const [wide, ...others] = constructBeam(grid, what, { sheets: 1, options: 1 }, { cancelled: never });
      expect(others).toEqual([]);
      expect(spotsOf(wide)).toEqual(spotsOf(alone));
      expect([...wide.sequence]).toEqual([...alone.sequence]);
      expect(wide.missing).toBeCloseTo(alone.missing, 6);
      expect([wide.depth, wide.end]).toEqual([alone.depth, alone.end]);
    }),
    { numRuns: runs(60) },
  );
});

test('sheets side by side have all bodies, none over another, none twice the same, and what they are said to leave out', () => {
  fc.assert(
    fc.property(scene, fc.integer({ min: 2, max: 9 }), fc.integer({ min: 2, max: 5 }), (s, sheets, options) => {
      const { grid, what } = begun(s);
      const all = constructBeam(grid, what, { sheets, options }, { cancelled: never });
      expect(all.length).toBeGreaterThan(0);
      expect(all.length).toBeLessThanOrEqual(sheets);
      const movable = what.order.filter((i) => !s.holds || i !== 0);
      for (const construction of all) {
        expect([...construction.sequence].sort((a, b) => a - b)).toEqual([...movable].sort((a, b) => a - b));
        const missing = movable.reduce((sum, i) => sum + grid.missingOf(i, construction.spots[i]), 0);
        expect(construction.missing).toBeCloseTo(missing, 6);
        expect(overlaps(construction)).toBe(0);
        // It stands on an empty sheet in its own sequence: nothing was left from another one.
        grid.begin(what);
        for (const i of construction.sequence) {
          const spot = construction.spots[i];
          if (!spot) continue;
          expect(grid.firstFrom(spot)).toEqual(spot);
          grid.stand(spot);
        }
      }
      expect(new Set(all.map((construction) => JSON.stringify(spotsOf(construction)))).size).toBe(all.length);
    }),
    { numRuns: runs(40) },
  );
});

/** Cells that several bodies of a drawing have. */
function overlaps({ spots }: Construction): number {
  const seen = new Set<number>();
  let twice = 0;
  for (const spot of spots) {
    if (!spot) continue;
    const { runs } = spot.mask.body;
    for (let k = 0; k < runs.length; k += 3)
      for (let i = 0; i < runs[k + 2]; i++) {
        const cell = (spot.y + runs[k] + 8) * 4096 + spot.x + runs[k + 1] + i;
        if (seen.has(cell)) twice++;
        seen.add(cell);
      }
  }
  return twice;
}

test('what is drawn anew leaves the first bodies where they stand, and more than is allowed is not drawn to the end', () => {
  fc.assert(
    fc.property(scene, fc.double({ min: 0, max: 1, noNaN: true }), (s, share) => {
      const { grid, what } = begun(s);
      const width = { sheets: 4, options: 3 };
      const [construction] = constructBeam(grid, what, width, { cancelled: never });
      const bodies = Math.floor(share * construction.sequence.length);
      const other = { ...what, fit: { ...what.fit, bias: 0.3 } };
      for (const again of constructBeam(grid, other, width, { cancelled: never, from: { construction, bodies } })) {
        const kept = construction.sequence.slice(0, bodies);
        expect(again.sequence.slice(0, bodies)).toEqual(kept);
        for (const i of kept) expect(again.spots[i]).toBe(construction.spots[i]);
        expect([...again.sequence].sort((a, b) => a - b)).toEqual([...construction.sequence].sort((a, b) => a - b));
        expect(overlaps(again)).toBe(0);
      }
      const most = construction.missing / 2;
      for (const construction of constructBeam(grid, what, width, { cancelled: never, most }))
        expect(construction.missing).toBeLessThanOrEqual(most);
    }),
    { numRuns: runs(40) },
  );
});

test('among many sheets there is one with room where a single one has none', () => {
  const random = numbers(5);
  let [alone, wide] = [0, 0];
  for (let k = 0; k < 12; k++) {
    const sides = Array.from({ length: 26 }, () => [10 + 26 * random(), 10 + 20 * random()] as [number, number]);
    const fit = { look: 8, bias: 1, band: 0.05 };
    const { grid, what } = begun({ sides, fit, tilt: 150, holds: false });
    const candidate = (construction: Construction) =>
      candidateCost({ ...what, construction: construction, missing: construction.missing / SIDE ** 2, late: [] });
    const many = constructBeam(grid, what, { sheets: 16, options: 4 }, { cancelled: never }).map(candidate);
    alone += candidate(grid.construct(what, { cancelled: never }) as Construction);
    wide += Math.min(...many);
  }
  expect(wide).toBeLessThan(alone * 0.97);
});

test('many sheets are given up at once when cancelled, and there are none without a choice', () => {
  const s = { sides: [[20, 30] as [number, number], [10, 10] as [number, number]], tilt: 0, holds: false };
  const { grid, what } = begun({ ...s, fit: { look: 2, bias: 1, band: 0.1 } });
  const width = { sheets: 4, options: 2 };
  let asked = 0;
  expect(constructBeam(grid, what, width, { cancelled: () => ++asked > 1 })).toEqual([]);
  expect(asked).toBe(2);
  expect(constructBeam(grid, { ...what, fit: null }, width, { cancelled: never })).toEqual([]);
});

test('a hunt begins with a new way and then gives about half of what it places to the best ones, from somewhere on', () => {
  const sides = Array.from({ length: 20 }, (_, i) => [8 + i, 30 - i] as [number, number]);
  const bodies = bodiesOf(sides);
  const grid = new ConstructionGrid(bodies, SIDE, SIDE, MARGIN, 1, 0.1);
  const orders = initialOrders(bodies.map((body) => body.field));
  const runs = [1, 1, 2].map((seed) => {
    const orderSearch = new BeamSearch(1, grid, orders, true, numbers(seed));
    let [fresh, anew] = [0, 0];
    const ways: string[] = [];
    for (let k = 0; k < 60; k++) {
      const before = orderSearch.placed;
      const { parameters, width, from } = orderSearch.next();
      expect(orderSearch.placed - before).toBe(width.sheets * (20 - (from?.bodies ?? 0)));
      if (k === 0) expect(from).toBeUndefined();
      if (from) anew += orderSearch.placed - before;
      else fresh += orderSearch.placed - before;
      expect(from ? from.bodies : 6).toBeGreaterThanOrEqual(6);
      expect(from ? from.bodies : 6).toBeLessThanOrEqual(16);
      ways.push(JSON.stringify([parameters.fit, parameters.tilt, from?.bodies]));
      const construction = { sequence: sides.map((_, i) => i), depth: 0.9 + 0.001 * ((k * 7) % 11), places: [] };
      orderSearch.keep({
        ...parameters,
        construction: construction as unknown as Construction,
        missing: 0.01,
        late: [],
      });
    }
    expect(anew / (anew + fresh)).toBeGreaterThan(0.4);
    expect(anew / (anew + fresh)).toBeLessThan(0.6);
    return ways.join();
  });
  expect(runs[1]).toBe(runs[0]);
  expect(runs[2]).not.toBe(runs[0]);
});

test('a hunt tells its best from the others, and does not hold on to the same one twice', () => {
  const bodies = bodiesOf([[20, 10] as const, [12, 9] as const]);
  const grid = new ConstructionGrid(bodies, SIDE, SIDE, MARGIN, 1, 0.1);
  const orderSearch = new BeamSearch(1, grid, initialOrders(bodies.map((body) => body.field)), true, numbers(3));
  const { parameters } = orderSearch.next();
  const candidate = (depth: number, missing: number) => ({
    ...parameters,
    construction: { depth, sequence: [0, 1], places: [] as ConstructedPlace[] } as unknown as Construction,
    missing,
    late: [],
  });
  expect(orderSearch.keep(candidate(0.9, 0.01))).toBe(true);
  expect(orderSearch.keep(candidate(0.9, 0.01))).toBe(false);
  expect(orderSearch.keep(candidate(0.9, 0.02))).toBe(false);
  expect(orderSearch.keep(candidate(0.89, 0.01))).toBe(true);
});
