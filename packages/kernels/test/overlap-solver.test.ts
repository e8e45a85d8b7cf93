import fc from 'fast-check';
import { expect, test } from 'vitest';
import { runs } from '../../core/test/sampling.ts';
import { borderEdges, distanceField } from '../src/field.ts';
import { overlapReference } from '../src/overlap-reference.ts';
import { OverlapSolver } from '../src/overlap-solver.ts';

/** A regular polygon about the origin as a fan, or a frame with a hole. */
function polygon(corners: number, radius: number, stretch: number): Float64Array {
  const out: number[] = [];
  const at = (i: number) => {
    const a = (i / corners) * 2 * Math.PI;
    return [radius * Math.cos(a) * stretch, radius * Math.sin(a)];
  };
  for (let i = 1; i + 1 < corners; i++) out.push(...at(0), ...at(i), ...at(i + 1));
  const xs = out.filter((_, i) => i % 2 === 0);
  const ys = out.filter((_, i) => i % 2 === 1);
  const [mx, my] = [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...ys) + Math.max(...ys)) / 2];
  return Float64Array.from(out, (v, i) => v - (i % 2 === 0 ? mx : my));
}

const fieldOf = (shape: Float64Array) =>
  distanceField(shape, borderEdges(shape), { step: 1, band: 4, spacing: 5, tolerance: 0.05 });

test('a field tells distance and side of a polygon, beyond it as far as its band', () => {
  const square = Float64Array.of(-10, -10, 10, -10, 10, 10, -10, -10, 10, 10, -10, 10);
  const field = fieldOf(square);
  expect(field.samples.length / 2).toBe(16);
  for (let y = 0; y < field.rows; y++)
    for (let x = 0; x < field.columns; x++) {
      const [px, py] = [Math.abs(field.left + x * field.step) - 10, Math.abs(field.top + y * field.step) - 10];
      const truth = px > 0 || py > 0 ? Math.hypot(Math.max(px, 0), Math.max(py, 0)) : Math.max(px, py);
      expect(field.distance[y * field.columns + x]).toBeCloseTo(truth, 4);
    }
});

test('edges between triangles are no border, folds are', () => {
  expect(borderEdges(Float64Array.of(0, 0, 4, 0, 4, 4, 0, 0, 4, 4, 0, 4)).length).toBe(16);
  // The second triangle lies on the same side of the edge that both have.
  const folded = borderEdges(Float64Array.of(0, 0, 4, 0, 4, 4, 0, 0, 4, 4, 3, 1));
  expect(folded.length).toBe(20);
});

test('the kernel and its twin agree to the bit, whatever they are given', () => {
  const body = fc.record({
    corners: fc.integer({ min: 3, max: 12 }),
    radius: fc.double({ min: 2, max: 30, noNaN: true }),
    stretch: fc.double({ min: 0.2, max: 3, noNaN: true }),
    x: fc.double({ min: -20, max: 140, noNaN: true }),
    y: fc.double({ min: -20, max: 140, noNaN: true }),
    turn: fc.double({ min: 0, max: 6.3, noNaN: true }),
    size: fc.double({ min: 0.3, max: 2, noNaN: true }),
    freedom: fc.constantFrom(0 as const, 1 as const, 2 as const),
    fixed: fc.boolean(),
  });
  fc.assert(
    fc.property(
      fc.array(body, { minLength: 2, maxLength: 70 }),
      fc.double({ min: 0, max: 4, noNaN: true }),
      (list, margin) => {
        const make = (reference?: typeof overlapReference) => {
          const options = list.map((b) => ({
            field: fieldOf(polygon(b.corners, b.radius, b.stretch)),
            freedom: b.freedom,
            fixed: b.fixed,
          }));
          const solver = new OverlapSolver(options, 120, 100, margin, reference);
          solver.forget();
          solver.loops.locate();
          list.forEach((b, i) => {
            solver.size[i] = b.size;
            solver.move(i, b.x, b.y, Math.cos(b.turn), Math.sin(b.turn));
          });
          return solver;
        };
        const [kernel, reference] = [make(), make(overlapReference)];
        for (let round = 0; round < 3; round++) {
          // Many in a row: pairs that were apart are asleep until they come near.
          for (let k = 0; k < 12; k++) expect(kernel.relax(0.8)).toBe(reference.relax(0.8));
          expect(kernel.poses()).toEqual(reference.poses());
          expect(kernel.reweigh(0.03)).toEqual(reference.reweigh(0.03));
        }
        kernel.loops.locate();
        for (const solver of [kernel, reference]) solver.attend(0);
        for (const bound of [1, 100, Infinity])
          expect(kernel.cost(0, 60, 50, 0.6, 0.8, bound)).toBe(reference.cost(0, 60, 50, 0.6, 0.8, bound));
      },
    ),
    { numRuns: runs(40) },
  );
});
