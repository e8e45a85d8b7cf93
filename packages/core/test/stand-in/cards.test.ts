import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Point } from '../../src/math/outline.ts';
import { cardScale, cardSides, convexOutline, withFewerCorners } from '../../src/stand-in/cards.ts';
import { runs } from '../sampling.ts';

const turn = (a: Point, b: Point, point: Point) =>
  (b[0] - a[0]) * (point[1] - a[1]) - (b[1] - a[1]) * (point[0] - a[0]);

const points = fc.array(
  fc.tuple(fc.double({ min: -5, max: 5, noNaN: true }), fc.double({ min: -5, max: 5, noNaN: true })),
  { minLength: 3, maxLength: 60 },
);

describe('outlines of cards', () => {
  test('whatever the points, the outline is convex, has few corners, and holds every point', () => {
    fc.assert(
      fc.property(points, fc.integer({ min: 4, max: 10 }), (list, most) => {
        const hull = convexOutline(list);
        fc.pre(
          hull.length >= 3 &&
            Math.abs(hull.reduce((sum, p, i) => sum + turn([0, 0], p, hull[(i + 1) % hull.length]), 0)) > 1e-3,
        );
        const outline = withFewerCorners(hull, most);
        expect(outline.length).toBeLessThanOrEqual(Math.max(most, 4));
        outline.forEach((a, i) => {
          const b = outline[(i + 1) % outline.length];
          const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
          for (const p of list) expect(turn(a, b, p)).toBeGreaterThan(-1e-6 * Math.max(1, length));
        });
      }),
      { numRuns: runs(200) },
    );
  });

  test('a circle of a hundred points in eight corners: little more than the regular octagon around it', () => {
    const circle = Array.from({ length: 96 }, (_, i): [number, number] => [
      Math.cos((i * Math.PI) / 48),
      Math.sin((i * Math.PI) / 48),
    ]);
    const outline = withFewerCorners(convexOutline(circle), 8);
    const area = outline.reduce((sum, p, i) => sum + turn([0, 0], p, outline[(i + 1) % 8]) / 2, 0);
    const octagon = 8 * Math.tan(Math.PI / 8);
    expect(area / octagon).toBeGreaterThan(0.99);
    expect(area / octagon).toBeLessThan(1.02);
  });
});

describe('cards', () => {
  const box = {
    positions: Float32Array.of(0, 0, 0, 4, 0, 0, 4, 3, 0, 0, 3, 0, 0, 0, 1, 4, 0, 1, 4, 3, 1, 0, 3, 1),
    indices: new Uint32Array(0),
  };

  test('one lies across the shortest side, front and back face apart, and reach all of it', () => {
    const [front, back] = cardSides(box, 1);
    const normal = ({ corners: p }: typeof front) =>
      Math.sign((p[3] - p[0]) * (p[7] - p[1]) - (p[4] - p[1]) * (p[6] - p[0]));
    expect([normal(front), normal(back)]).toEqual([1, -1]);
    expect(front.corners[2]).toBeGreaterThan(back.corners[2]);
    expect(front.corners[2] - front.reach).toBeLessThan(0);
    expect(front.corners[2] + front.reach).toBeGreaterThan(1);
  });

  test('two that cross stand upright; packed, all take a tenth of the surface', () => {
    const sides = cardSides(box, 2);
    expect(sides).toHaveLength(4);
    // 4 × 3 twice, 3 × 1 twice.
    expect(cardScale(sides, 38)).toBeCloseTo(Math.sqrt(3.8 / 30), 3);
    expect(cardScale(sides, 1e6)).toBe(1);
  });
});
