import { ROW } from '@wembrel/kernels/occupancy';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { QUARTERS } from '../src/pack/directions.ts';
import { worth } from '../src/pack/hunt.ts';
import { usualOrders } from '../src/pack/orders.ts';
import { type Drawing, Sketch, type SketchPlace } from '../src/pack/sketch.ts';
import { drawWide } from '../src/pack/wide.ts';
import { WideHunt } from '../src/pack/wide-hunt.ts';
import { numbers } from './build.ts';
import { boxField, MARGIN, wedgeField } from './fields.ts';

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
  const sketch = new Sketch(bodies, SIDE, SIDE, MARGIN, 1, 0.1);
  const keys = Float64Array.from(sides, ([w, h]) => Math.sqrt(w * h) / 20);
  const order = sides.map((_, i) => i).sort((a, b) => keys[b] - keys[a] || a - b);
  return { sketch, what: { order, keys, fit, tilt } };
}
type Fitting = { look: number; bias: number; band: number };

const spotsOf = ({ spots }: Drawing) => spots.map((s) => s && [s.x, s.y, ...s.mask.direction]);

test('one sheet that goes on in one way is the sketch as it is drawn alone', () => {
  fc.assert(
    fc.property(scene, (s) => {
      const { sketch, what } = begun(s);
      const alone = sketch.draw(what, { cancelled: never }) as Drawing;
      const [wide, ...others] = drawWide(sketch, what, { sheets: 1, options: 1 }, { cancelled: never });
      expect(others).toEqual([]);
      expect(spotsOf(wide)).toEqual(spotsOf(alone));
      expect([...wide.sequence]).toEqual([...alone.sequence]);
      expect(wide.missing).toBeCloseTo(alone.missing, 6);
      expect([wide.depth, wide.end]).toEqual([alone.depth, alone.end]);
    }),
    { numRuns: 60 },
  );
});

test('sheets side by side have all bodies, none over another, none twice the same, and what they are said to leave out', () => {
  fc.assert(
    fc.property(scene, fc.integer({ min: 2, max: 9 }), fc.integer({ min: 2, max: 5 }), (s, sheets, options) => {
      const { sketch, what } = begun(s);
      const all = drawWide(sketch, what, { sheets, options }, { cancelled: never });
      expect(all.length).toBeGreaterThan(0);
      expect(all.length).toBeLessThanOrEqual(sheets);
      const movable = what.order.filter((i) => !s.holds || i !== 0);
      for (const drawing of all) {
        expect([...drawing.sequence].sort((a, b) => a - b)).toEqual([...movable].sort((a, b) => a - b));
        const missing = movable.reduce((sum, i) => sum + sketch.missingOf(i, drawing.spots[i]), 0);
        expect(drawing.missing).toBeCloseTo(missing, 6);
        expect(overlaps(drawing)).toBe(0);
        // It stands on an empty sheet in its own sequence: nothing was left from another one.
        sketch.begin(what);
        for (const i of drawing.sequence) {
          const spot = drawing.spots[i];
          if (!spot) continue;
          expect(sketch.firstFrom(spot)).toEqual(spot);
          sketch.stand(spot);
        }
      }
      expect(new Set(all.map((d) => JSON.stringify(spotsOf(d)))).size).toBe(all.length);
    }),
    { numRuns: 40 },
  );
});

/** Cells that several bodies of a drawing have. */
function overlaps({ spots }: Drawing): number {
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
      const { sketch, what } = begun(s);
      const width = { sheets: 4, options: 3 };
      const [drawing] = drawWide(sketch, what, width, { cancelled: never });
      const bodies = Math.floor(share * drawing.sequence.length);
      const other = { ...what, fit: { ...what.fit, bias: 0.3 } };
      for (const again of drawWide(sketch, other, width, { cancelled: never, from: { drawing, bodies } })) {
        const kept = drawing.sequence.slice(0, bodies);
        expect(again.sequence.slice(0, bodies)).toEqual(kept);
        for (const i of kept) expect(again.spots[i]).toBe(drawing.spots[i]);
        expect([...again.sequence].sort((a, b) => a - b)).toEqual([...drawing.sequence].sort((a, b) => a - b));
        expect(overlaps(again)).toBe(0);
      }
      const most = drawing.missing / 2;
      for (const d of drawWide(sketch, what, width, { cancelled: never, most }))
        expect(d.missing).toBeLessThanOrEqual(most);
    }),
    { numRuns: 40 },
  );
});

test('among many sheets there is one with room where a single one has none', () => {
  const random = numbers(5);
  let [alone, wide] = [0, 0];
  for (let k = 0; k < 12; k++) {
    const sides = Array.from({ length: 26 }, () => [10 + 26 * random(), 10 + 20 * random()] as [number, number]);
    const fit = { look: 8, bias: 1, band: 0.05 };
    const { sketch, what } = begun({ sides, fit, tilt: 150, holds: false });
    const drawn = (d: Drawing) => worth({ ...what, drawing: d, missing: d.missing / SIDE ** 2, late: [] });
    const many = drawWide(sketch, what, { sheets: 16, options: 4 }, { cancelled: never }).map(drawn);
    alone += drawn(sketch.draw(what, { cancelled: never }) as Drawing);
    wide += Math.min(...many);
  }
  expect(wide).toBeLessThan(alone * 0.97);
});

test('many sheets are given up at once when cancelled, and there are none without a choice', () => {
  const s = { sides: [[20, 30] as [number, number], [10, 10] as [number, number]], tilt: 0, holds: false };
  const { sketch, what } = begun({ ...s, fit: { look: 2, bias: 1, band: 0.1 } });
  const width = { sheets: 4, options: 2 };
  let asked = 0;
  expect(drawWide(sketch, what, width, { cancelled: () => ++asked > 1 })).toEqual([]);
  expect(asked).toBe(2);
  expect(drawWide(sketch, { ...what, fit: null }, width, { cancelled: never })).toEqual([]);
});

test('a hunt begins with a new way and then gives about half of what it places to the best ones, from somewhere on', () => {
  const sides = Array.from({ length: 20 }, (_, i) => [8 + i, 30 - i] as [number, number]);
  const bodies = bodiesOf(sides);
  const sketch = new Sketch(bodies, SIDE, SIDE, MARGIN, 1, 0.1);
  const orders = usualOrders(bodies.map((b) => b.field));
  const runs = [1, 1, 2].map((seed) => {
    const hunt = new WideHunt(1, sketch, orders, true, numbers(seed));
    let [fresh, anew] = [0, 0];
    const ways: string[] = [];
    for (let k = 0; k < 60; k++) {
      const before = hunt.placed;
      const { way, width, from } = hunt.next();
      expect(hunt.placed - before).toBe(width.sheets * (20 - (from?.bodies ?? 0)));
      if (k === 0) expect(from).toBeUndefined();
      if (from) anew += hunt.placed - before;
      else fresh += hunt.placed - before;
      expect(from ? from.bodies : 6).toBeGreaterThanOrEqual(6);
      expect(from ? from.bodies : 6).toBeLessThanOrEqual(16);
      ways.push(JSON.stringify([way.fit, way.tilt, from?.bodies]));
      const drawing = { sequence: sides.map((_, i) => i), depth: 0.9 + 0.001 * ((k * 7) % 11), places: [] };
      hunt.keep({ ...way, drawing: drawing as unknown as Drawing, missing: 0.01, late: [] });
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
  const sketch = new Sketch(bodies, SIDE, SIDE, MARGIN, 1, 0.1);
  const hunt = new WideHunt(1, sketch, usualOrders(bodies.map((b) => b.field)), true, numbers(3));
  const { way } = hunt.next();
  const drawn = (depth: number, missing: number) => ({
    ...way,
    drawing: { depth, sequence: [0, 1], places: [] as SketchPlace[] } as unknown as Drawing,
    missing,
    late: [],
  });
  expect(hunt.keep(drawn(0.9, 0.01))).toBe(true);
  expect(hunt.keep(drawn(0.9, 0.01))).toBe(false);
  expect(hunt.keep(drawn(0.9, 0.02))).toBe(false);
  expect(hunt.keep(drawn(0.89, 0.01))).toBe(true);
});
