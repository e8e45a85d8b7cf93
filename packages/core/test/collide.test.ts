import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { collisionShapes } from '../src/collide/collide.ts';
import { convexHull } from '../src/collide/hull.ts';
import { limitFaces } from '../src/collide/limit-faces.ts';
import { boxFrame, orientedBox } from '../src/collide/oriented-box.ts';
import { facePlane, farthestOutside, farthestOutsideAll, type Polyhedron, volume } from '../src/collide/polyhedron.ts';
import { capsuleVolume, enclosingCapsule, enclosingSphere } from '../src/collide/round-shapes.ts';
import type { CollisionKind } from '../src/decisions/collision.ts';
import { runs } from './sampling.ts';

/** Corners of a box from the origin. */
const box = (w: number, h: number, d: number): number[] =>
  [0, w].flatMap((x) => [0, h].flatMap((y) => [0, d].flatMap((z) => [x, y, z])));
const BOX_FACES = [
  0, 1, 3, 0, 3, 2, 4, 6, 7, 4, 7, 5, 0, 4, 5, 0, 5, 1, 2, 3, 7, 2, 7, 6, 0, 2, 6, 0, 6, 4, 1, 5, 7, 1, 7, 3,
];

/** Points turned about two axes and moved. */
function turned(points: number[], a: number, b: number): number[] {
  const out: number[] = [];
  for (let i = 0; i < points.length; i += 3) {
    const [x, y, z] = points.slice(i, i + 3);
    const [x1, y1] = [x * Math.cos(a) - y * Math.sin(a), x * Math.sin(a) + y * Math.cos(a)];
    out.push(x1 * Math.cos(b) + z * Math.sin(b) + 3, y1 - 2, -x1 * Math.sin(b) + z * Math.cos(b) + 1);
  }
  return out;
}

/** Every edge belongs to two faces, in opposite directions. */
function isClosed({ faces }: Polyhedron): boolean {
  const edges = new Set(faces.flatMap((face) => face.map((a, i) => `${a} ${face[(i + 1) % face.length]}`)));
  return [...edges].every((edge) => edges.has(edge.split(' ').reverse().join(' ')));
}

const cloud = fc.array(
  fc.tuple(
    fc.double({ min: -5, max: 5, noNaN: true }),
    fc.double({ min: -1, max: 1, noNaN: true }),
    fc.double({ min: -2, max: 2, noNaN: true }),
  ),
  {
    minLength: 1,
    maxLength: 80,
  },
);

describe('solids around points', () => {
  test('a turned box: hull, least box and its volume are the box', () => {
    const points = turned(box(1, 2, 3), 0.7, 0.4);
    expect(convexHull(points).faces).toHaveLength(6);
    expect(volume(convexHull(points))).toBeCloseTo(6, 9);
    expect(volume(orientedBox(points))).toBeCloseTo(6, 9);
    const { low, high } = boxFrame(points);
    expect([0, 1, 2].map((k) => high[k] - low[k]).sort()).toEqual([1, 2, 3].map((side) => expect.closeTo(side, 9)));
  });

  test('the sphere around a box has its diagonal, to a thousandth; that around one point none', () => {
    const { radius } = enclosingSphere(turned(box(1, 2, 3), 0.7, 0.4));
    expect(radius).toBeGreaterThanOrEqual(Math.sqrt(14) / 2 - 1e-9);
    expect(radius).toBeLessThan((Math.sqrt(14) / 2) * 1.001);
    expect(enclosingSphere([1, 2, 3])).toEqual({ centre: [1, 2, 3], radius: 0 });
  });

  test('the capsule around points of a capsule is that capsule', () => {
    const points: number[] = [];
    for (let i = 0; i < 40; i++)
      for (let r = 0; r <= 10; r++) {
        const [a, b] = [(i * Math.PI) / 20, (r * Math.PI) / 20];
        const [out, up] = [0.5 * Math.cos(b), 0.5 * Math.sin(b)];
        points.push(out * Math.cos(a), 2 + up, out * Math.sin(a), out * Math.cos(a), -2 - up, out * Math.sin(a));
      }
    const capsule = enclosingCapsule(turned(points, 0.3, 0.9));
    expect(capsule.radius).toBeCloseTo(0.5, 2);
    expect(capsuleVolume(capsule)).toBeLessThan(Math.PI * 0.25 * (4 + 2 / 3) * 1.02);
  });

  test('any points: hulls are closed, convex, hold all points, and are no larger than the box', () => {
    fc.assert(
      fc.property(cloud, (list) => {
        const points = list.flat();
        const hull = convexHull(points);
        expect(isClosed(hull)).toBe(true);
        expect(farthestOutside(hull, points)).toBeLessThan(1e-7);
        expect(farthestOutside(hull, hull.corners)).toBeLessThan(1e-7);
        expect(volume(hull)).toBeGreaterThan(0);
        expect(volume(hull)).toBeLessThanOrEqual(volume(orientedBox(points)) * (1 + 1e-6));
      }),
      { numRuns: runs(60) },
    );
  });

  test('any points and any number of faces: never more faces, and every point inside', () => {
    fc.assert(
      fc.property(cloud, fc.integer({ min: 6, max: 40 }), (list, most) => {
        const points = list.flat();
        const hull = convexHull(points);
        const limited = limitFaces(hull, most);
        expect(
          new Set(
            limited.faces.map((face) =>
              facePlane(limited, face)
                .map((v) => v.toFixed(5))
                .join(' '),
            ),
          ).size,
        ).toBeLessThanOrEqual(most);
        expect(farthestOutside(limited, points)).toBeLessThan(1e-3 * 10);
        expect(volume(limited)).toBeGreaterThanOrEqual(volume(hull) * (1 - 1e-6));
      }),
      { numRuns: runs(60) },
    );
  });

  test('a point counts as outside where no solid holds it', () => {
    const solids = [convexHull(box(1, 1, 1)), convexHull(box(1, 1, 1).map((v, i) => (i % 3 === 0 ? v + 5 : v)))];
    expect(farthestOutsideAll(solids, [0.5, 0.5, 0.5, 5.5, 0.5, 0.5])).toBe(0);
    expect(farthestOutsideAll(solids, [0.5, 0.5, 0.5, 3, 0.5, 0.5])).toBeCloseTo(2, 12);
  });

  test('more faces fit better', () => {
    const points: number[] = [];
    for (let i = 0; i < 400; i++) {
      const y = 1 - (2 * i + 1) / 400;
      const r = Math.sqrt(1 - y * y);
      points.push(r * Math.cos(2.4 * i), y, r * Math.sin(2.4 * i));
    }
    const hull = convexHull(points);
    const volumes = [6, 12, 24, 48, 96].map((most) => volume(limitFaces(hull, most)));
    for (let i = 1; i < volumes.length; i++) expect(volumes[i]).toBeLessThan(volumes[i - 1]);
    expect(volumes[4] / volume(hull)).toBeLessThan(1.12);
  });

  test.each(['one place', 'a line', 'a plane'])('points on %s get a little volume', (what) => {
    const points = { 'one place': [1, 1, 1], 'a line': [0, 0, 0, 1, 2, 3], 'a plane': box(2, 3, 0) }[what] as number[];
    const hull = convexHull(points);
    expect(volume(hull)).toBeGreaterThan(0);
    expect(farthestOutside(hull, points)).toBeLessThan(1e-9);
  });
});

describe('shapes of a surface', () => {
  /** An L of two boxes: its hull holds a good deal of air. */
  const long = box(4, 1, 1);
  const up = box(1, 3, 1).map((v, i) => (i % 3 === 1 ? v + 1 : v));
  const mesh = {
    positions: [...long, ...up],
    indices: [...BOX_FACES, ...BOX_FACES.map((v) => v + 8)],
  };

  test.each<CollisionKind>(['box', 'sphere', 'capsule', 'hull'])(
    '%s: every vertex lies inside, within 0.1 % of the size',
    (as) => {
      const shapes = collisionShapes(mesh, { as, faces: 32, pieces: 8 });
      expect(shapes.solids).toHaveLength(1);
      expect(shapes.outside).toBeLessThan(1e-3);
      expect(shapes.volume).toBeGreaterThanOrEqual(shapes.hullVolume * (1 - 1e-6));
    },
  );

  test('pieces: an L becomes its two boxes, which hold no air', () => {
    const { solids, volume: all, error, outside } = collisionShapes(mesh, { as: 'pieces', faces: 32, pieces: 8 });
    expect(outside).toBeLessThan(1e-3);
    expect(solids.length).toBeGreaterThanOrEqual(2);
    expect(all).toBeLessThan(7.2);
    expect(error).toBeLessThan(0.05 + 1e-9);
  });

  test('never more pieces than asked for; one is the hull', () => {
    expect(collisionShapes(mesh, { as: 'pieces', faces: 64, pieces: 1 }).volume).toBeCloseTo(
      collisionShapes(mesh, { as: 'hull', faces: 64, pieces: 1 }).volume,
      6,
    );
    expect(collisionShapes(mesh, { as: 'pieces', faces: 32, pieces: 2 }).solids.length).toBeLessThanOrEqual(2);
  });
});
