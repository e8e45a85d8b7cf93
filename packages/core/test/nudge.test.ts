import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type PlacedBorder, placedBorder } from '../src/pack/gaps.ts';
import { nudge } from '../src/pack/nudge.ts';
import { borderDistance, shapeDistance } from './gap.ts';
import { runs } from './sampling.ts';

const EDGES = Float64Array.of(-1, -1, 1, -1, 1, -1, 1, 1, 1, 1, -1, 1, -1, 1, -1, -1);
const SHAPE = Float64Array.of(-1, -1, 1, -1, 1, 1, -1, -1, 1, 1, -1, 1);

interface Pose {
  x: number;
  y: number;
  c: number;
  s: number;
  size: number;
}

/** A square of side 2 · size. */
const square = (x: number, y: number, size = 10, angle = 0): Pose => ({
  x,
  y,
  c: Math.cos(angle),
  s: Math.sin(angle),
  size,
});

const borderOf = ({ x, y, c, s, size }: Pose): PlacedBorder => placedBorder(EDGES, size, x, y, c, s);

/** Its triangles once it has been moved. */
const movedShape = ({ x, y, c, s, size }: Pose, dx: number, dy: number): Float64Array =>
  SHAPE.map((v, i) =>
    i % 2 === 0 ? x + dx + (c * v - s * SHAPE[i + 1]) * size : y + dy + (s * SHAPE[i - 1] + c * v) * size,
  );

const sheet = { width: 100, height: 100, margin: 2, stays: () => false };

test('two that are too near move apart by half of what is missing each, the way they face each other', () => {
  const poses = [square(30, 50), square(51.5, 55)];
  const borders = poses.map(borderOf);
  const { short, x, y } = nudge(borders, sheet, 10);
  expect(short).toBeLessThanOrEqual(0);
  expect([...x, ...y]).toEqual([-0.25, 0.25, 0, 0].map((v) => expect.closeTo(v, 3)));
  // The borders are where it says.
  expect(borders[0].right).toBeCloseTo(40 + x[0], 12);
  expect(borders[0].segments[0]).toBeCloseTo(20 + x[0], 12);
});

test('one that stays does not move, the other by all that is missing; two that stay may be as near as they are', () => {
  const poses = [square(30, 50), square(51.5, 55), square(50, 60)];
  const stays = (i: number) => i !== 1;
  const { short, x, y } = nudge(poses.map(borderOf), { ...sheet, stays }, 0);
  // The second and the third cross.
  expect(short).toBe(2);
  expect([...x, ...y]).toEqual([0, 0, 0, 0, 0, 0]);
  const apart = nudge([poses[0], poses[1], square(20, 40)].map(borderOf), { ...sheet, stays }, 10);
  expect(apart.short).toBeLessThanOrEqual(0);
  expect([...apart.x]).toEqual([0, expect.closeTo(0.5, 3), 0]);
});

test('where more than half of the margin is missing nothing is moved', () => {
  const { short, x } = nudge([square(30, 50), square(50.9, 50)].map(borderOf), sheet, 10);
  expect(short).toBeCloseTo(1.1, 9);
  expect([...x]).toEqual([0, 0]);
});

test('what is too near to the edge of the sheet comes in; where there is no room it says what is missing', () => {
  const { short, x, y } = nudge([borderOf(square(10.5, 89.8))], sheet, 10);
  expect(short).toBeLessThanOrEqual(0);
  expect([x[0], y[0]]).toEqual([expect.closeTo(0.5, 3), expect.closeTo(-0.8, 3)]);
  const jammed = nudge([borderOf(square(50, 50, 49.2))], sheet, 10);
  expect(jammed.short).toBeCloseTo(0.2, 6);
});

test('squares that are a little too near keep the margin afterwards, by an independent check', () => {
  const angle = fc.integer({ min: 0, max: 300 }).map((v) => v / 1000);
  const jitter = fc.integer({ min: -1500, max: 1500 }).map((v) => v / 1000);
  let moved = 0;
  fc.assert(
    fc.property(fc.array(fc.tuple(angle, jitter, jitter), { minLength: 9, maxLength: 9 }), (list) => {
      // Turned so far, a square of side 16 keeps within 20 px.
      const poses = list.map(([a, dx, dy], i) =>
        square(17 + 33 * (i % 3) + dx, 17 + 33 * Math.floor(i / 3) + dy, 8, a),
      );
      const margin = 12.5;
      const { short, x, y } = nudge(poses.map(borderOf), { ...sheet, margin }, 60);
      if (short > 0) return;
      if ([...x, ...y].some((v) => v !== 0)) moved++;
      const shapes = poses.map((pose, i) => movedShape(pose, x[i], y[i]));
      shapes.forEach((shape, i) => {
        expect(borderDistance(shape, 100, 100)).toBeGreaterThan(margin / 2 - 1e-9);
        for (const b of shapes.slice(0, i)) expect(shapeDistance(shape, b)).toBeGreaterThan(margin - 1e-9);
      });
    }),
    { numRuns: runs(100) },
  );
  expect(moved).toBeGreaterThan(runs(100) / 5);
});
