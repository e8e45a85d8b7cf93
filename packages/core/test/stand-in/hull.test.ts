import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { collapsed } from '../../src/stand-in/hull/collapse.ts';
import { contour } from '../../src/stand-in/hull/contour.ts';
import { hullOf } from '../../src/stand-in/hull/hull.ts';
import { ringsOf, triangleNormal } from '../../src/stand-in/hull/rings.ts';
import { WindingNumber } from '../../src/stand-in/hull/winding.ts';
import { isWatertight, joinedMeshes, type LightMesh, volumeOf } from '../../src/stand-in/light-mesh.ts';
import { numbers } from '../build.ts';
import { sphere } from '../rays/scenes.ts';
import { runs } from '../sampling.ts';

const FACES = [
  [0, 2, 3, 1],
  [4, 5, 7, 6],
  [0, 1, 5, 4],
  [2, 6, 7, 3],
  [0, 4, 6, 2],
  [1, 3, 7, 5],
];

/** A box from a corner. @param without faces that are left out: 0 and 1 lie at the least and greatest z */
function box(at: number[], size: number[], without: number[] = []): LightMesh {
  const positions = Array.from({ length: 8 }, (_, c) => [0, 1, 2].map((k) => at[k] + size[k] * ((c >> k) & 1))).flat();
  const indices = FACES.filter((_, f) => !without.includes(f)).flatMap(([a, b, c, d]) => [a, b, c, a, c, d]);
  return { positions: Float32Array.from(positions), indices: Uint32Array.from(indices) };
}

const ball = (radius: number): LightMesh => {
  const { positions, indices } = sphere(radius, 24);
  return { positions: Float32Array.from(positions), indices: Uint32Array.from(indices) };
};

const inverted = ({ positions, indices }: LightMesh): LightMesh => ({
  positions,
  indices: indices.map((_, i) => indices[i - (i % 3) + 2 - (i % 3)]),
});

/** Vertices less edges and faces of a closed surface: 2 for each piece without a handle. */
const euler = ({ positions, indices }: LightMesh): number => positions.length / 3 - indices.length / 6;

/** Every edge on two faces, the faces around every vertex one ring, no face without area. */
function expectManifold(mesh: LightMesh): void {
  expect(isWatertight(mesh)).toBe(true);
  const { from, list } = ringsOf(mesh);
  for (let v = 0; v + 1 < from.length; v++) {
    const next = new Map<number, number>();
    for (let r = from[v]; r < from[v + 1]; r++) {
      const corners = [...mesh.indices.subarray(list[r] * 3, list[r] * 3 + 3)];
      const k = corners.indexOf(v);
      next.set(corners[(k + 1) % 3], corners[(k + 2) % 3]);
    }
    const [first] = next.keys();
    let steps = 0;
    for (let at = first; steps === 0 || (at !== first && steps <= next.size); steps++) at = next.get(at) as number;
    if (steps !== next.size) throw new Error(`the faces around vertex ${v} are not one ring`);
  }
  const n = [0, 0, 0];
  for (let i = 0; i < mesh.indices.length; i += 3)
    expect(
      triangleNormal(mesh.positions, [mesh.indices[i], mesh.indices[i + 1], mesh.indices[i + 2]], -1, n, n),
    ).toBeGreaterThan(0);
}

const hull = (source: LightMesh, cell: number, keepCavities = false) => hullOf(source, { cell, keepCavities });

describe('winding numbers', () => {
  test('1 inside of a closed box, 0 outside, −1 where it is turned inside out, a half in the middle of its missing face', () => {
    const unit = box([0, 0, 0], [1, 1, 1]);
    expect(new WindingNumber(unit).at(0.5, 0.4, 0.3)).toBeCloseTo(1, 9);
    expect(new WindingNumber(unit).at(1.2, 0.4, 0.3)).toBeCloseTo(0, 9);
    expect(new WindingNumber(inverted(unit)).at(0.5, 0.4, 0.3)).toBeCloseTo(-1, 9);
    // The missing face spans a half of all directions as seen from its middle.
    expect(new WindingNumber(box([0, 0, 0], [1, 1, 1], [1])).at(0.5, 0.5, 1)).toBeCloseTo(0.5, 9);
  });

  test('clusters that count as dipoles change it by less than three hundredths', () => {
    const winding = new WindingNumber(ball(1));
    const random = numbers(3);
    for (let i = 0; i < 200; i++) {
      const p = [0, 1, 2].map(() => random() * 4 - 2);
      const length = Math.hypot(...p);
      if (Math.abs(length - 1) < 0.05) continue;
      expect(Math.abs(winding.at(p[0], p[1], p[2]) - Number(length < 1))).toBeLessThan(0.03);
    }
  });
});

describe('contours', () => {
  test('whatever nodes are inside, the surface is closed, manifold and turned outward', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 64, maxLength: 64 }), (values) => {
        const grid = { origin: [0, 0, 0] as const, cell: 1, size: [6, 6, 6] as const, box: [0, 0, 0, 5, 5, 5] };
        const field = new Float32Array(216).fill(1);
        values.forEach((value, i) => {
          field[((i >> 4) + 1) * 36 + (((i >> 2) & 3) + 1) * 6 + (i & 3) + 1] = value;
        });
        const mesh = contour(grid, field);
        if (!values.some((value) => Math.fround(value) <= 0)) expect(mesh.indices).toHaveLength(0);
        else {
          expectManifold(mesh);
          expect(volumeOf(mesh)).toBeGreaterThan(0);
        }
      }),
      { numRuns: runs(200) },
    );
  });
});

describe('hulls', () => {
  const unit = box([0, 0, 0], [1, 1, 1]);
  test.each([
    ['a box', unit, 1],
    ['a box that is turned inside out', inverted(unit), 1],
    ['a box without one of its faces', box([0, 0, 0], [1, 1, 1], [1]), 1],
    ['two boxes that overlap', joinedMeshes([unit, box([0.5, 0.5, 0.5], [1, 1, 1])]), 1.875],
    ['two boxes that touch', joinedMeshes([unit, box([1, 0, 0], [1, 1, 1])]), 2],
    ['a ball', ball(0.6), (4 / 3) * Math.PI * 0.6 ** 3],
    ['a ball with another one in it', joinedMeshes([ball(0.6), ball(0.3)]), (4 / 3) * Math.PI * 0.6 ** 3],
  ])('%s: closed, one piece without handles, its volume within two hundredths', (_, source, volume) => {
    const mesh = hull(source, 1 / 24);
    expectManifold(mesh);
    expect(euler(mesh)).toBe(2);
    expect(Math.abs(volumeOf(mesh) / volume - 1)).toBeLessThan(0.02);
    const light = collapsed(mesh, { triangles: 400 });
    expectManifold(light);
    expect(euler(light)).toBe(2);
    expect(light.indices.length / 3).toBeLessThanOrEqual(400);
    expect(Math.abs(volumeOf(light) / volume - 1)).toBeLessThan(0.03);
  });

  test('corners and edges of a box are kept to a twentieth of a cell', () => {
    const cell = 1 / 24;
    const { positions } = hull(unit, cell);
    for (let c = 0; c < 8; c++) {
      let nearest = Infinity;
      for (let v = 0; v < positions.length; v += 3)
        nearest = Math.min(nearest, Math.hypot(...[0, 1, 2].map((k) => positions[v + k] - ((c >> k) & 1))));
      expect(nearest).toBeLessThan(cell / 20);
    }
  });

  test('a sheet without a thickness is given one cell', () => {
    const sheet = {
      positions: Float32Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0),
      indices: Uint32Array.of(0, 1, 2, 0, 2, 3),
    };
    const mesh = hull(sheet, 1 / 32);
    expectManifold(mesh);
    expect(euler(mesh)).toBe(2);
    const z = mesh.positions.filter((_, i) => i % 3 === 2);
    expect(Math.max(...z) - Math.min(...z)).toBeCloseTo(1 / 32, 3);
  });

  test('a hollow is filled, or kept as a surface of its own', () => {
    const hollow = joinedMeshes([unit, inverted(box([0.3, 0.3, 0.3], [0.4, 0.4, 0.4]))]);
    expect(euler(hull(hollow, 1 / 20))).toBe(2);
    const kept = hull(hollow, 1 / 20, true);
    expectManifold(kept);
    expect(euler(kept)).toBe(4);
    expect(volumeOf(kept)).toBeCloseTo(1 - 0.4 ** 3, 2);
  });

  test('triangles by chance: closed and manifold, however they lie', () => {
    for (let seed = 1; seed <= runs(30); seed++) {
      const random = numbers(seed);
      const count = 3 + Math.floor(random() * 40);
      const positions = Float32Array.from({ length: count * 9 }, () => random());
      const mesh = hull({ positions, indices: Uint32Array.from({ length: count * 3 }, (_, i) => i) }, 1 / 12);
      expectManifold(mesh);
      expectManifold(collapsed(mesh, { triangles: 300 }));
    }
  });

  test('nothing to wrap and cells that are too many are told in a sentence', () => {
    const point = { positions: new Float32Array(9), indices: Uint32Array.of(0, 1, 2) };
    expect(() => hull(point, 0.1)).toThrow('it has no size');
    expect(() => hull(unit, 1e-4)).toThrow('take wider ones');
  });
});

describe('collapsing', () => {
  test('a finely divided box keeps its volume with few triangles', () => {
    const light = collapsed(hull(box([0, 0, 0], [1, 1, 1]), 1 / 16), { triangles: 24 });
    expectManifold(light);
    expect(light.indices.length / 3).toBeLessThanOrEqual(24);
    expect(volumeOf(light)).toBeCloseTo(1, 2);
  });

  test('a ring keeps its hole', () => {
    const ring = joinedMeshes([
      box([0, 0, 0], [3, 1, 1]),
      box([0, 2, 0], [3, 1, 1]),
      box([0, 0, 0], [1, 3, 1]),
      box([2, 0, 0], [1, 3, 1]),
    ]);
    const mesh = hull(ring, 1 / 8);
    expect(euler(mesh)).toBe(0);
    const light = collapsed(mesh, { triangles: 60 });
    expectManifold(light);
    expect(euler(light)).toBe(0);
    expect(volumeOf(light)).toBeCloseTo(8, 0);
  });
});
