import { expect, test } from 'vitest';
import { surfacePoint } from '../../src/rays/faults/fault-list.ts';
import { unit } from '../../src/rays/target/hit-surface.ts';
import { bake, cube, grid, model, sphere, square, texel } from './scenes.ts';

const degrees = (a: number[], b: number[]) =>
  (Math.acos(Math.max(-1, Math.min(1, a[0] * b[0] + a[1] * b[1] + a[2] * b[2]))) * 180) / Math.PI;
const vector = (stored: number[], full: number) => {
  const v = stored.map((c) => (c / full) * 2 - 1);
  unit(v);
  return v;
};

test.each([
  [32, 1, 0.5],
  [8, 255, 1.2],
] as const)('a sphere on its cube: normals in object space at %i bit', async (bits, full, limit) => {
  const models = [model('a.glb', { high: sphere(1, 128), low: cube(1) })];
  const { maps, jobs } = await bake(models, [{ high: 'high', low: 'low' }], {
    maps: ['object-normal'],
    size: 128,
    samples: 1,
    bits,
  });
  const [job] = jobs;
  let worst = 0;
  let seen = 0;
  for (let i = 0; i < maps.island.length; i++) {
    if (maps.island[i] === 0) continue;
    expect(maps.hit[i]).toBe(1);
    const [x, y] = [i % 128, Math.floor(i / 128)];
    const t = maps.triangle[i];
    // Only texels whose centre is inside: others are read at the island's nearest point.
    const p = surfacePoint(job.target, t, x + 0.5, y + 0.5);
    const o = t * 6;
    const [u, v] = [x + 0.5, y + 0.5];
    const { place: q } = job.target;
    const side = (a: number, b: number) =>
      (q[o + b * 2] - q[o + a * 2]) * (v - q[o + a * 2 + 1]) -
      (u - q[o + a * 2]) * (q[o + b * 2 + 1] - q[o + a * 2 + 1]);
    const s = [side(0, 1), side(1, 2), side(2, 0)];
    if (!(s.every((e) => e >= 0) || s.every((e) => e <= 0))) continue;
    // Smoothed over its corners, the cube casts straight through its middle.
    unit(p);
    const stored = texel(maps, 'object-normal', x, y);
    worst = Math.max(worst, degrees(bits === 32 ? stored : vector(stored, full), p));
    seen++;
  }
  expect(seen).toBeGreaterThan(11_000);
  expect(worst).toBeLessThan(limit);
});

test('a tilted plane on a plane: one normal everywhere, the heights of the tilt', async () => {
  const tilt = 0.3;
  const high = grid(1, 1, (u, v) => ({ p: [(u * 2 - 1) * 2, (1 - v * 2) * 2, (u * 2 - 1) * 2 * tilt] }));
  const { maps } = await bake([model('a.glb', { high, low: square(1) })], [{ high: 'high', low: 'low' }], {
    maps: ['normal', 'height'],
    size: 64,
    bits: 16,
    samples: 4,
  });
  const l = Math.sqrt(1 + tilt * tilt);
  for (let y = 0; y < 64; y++)
    for (let x = 0; x < 64; x++) {
      const n = vector(texel(maps, 'normal', x, y), 65535);
      expect(degrees(n, [-tilt / l, 0, 1 / l])).toBeLessThan(0.05);
      expect(texel(maps, 'height', x, y)[0]).toBeCloseTo((((x + 0.5) / 64) * 2 - 1) * tilt, 5);
    }
});

test('a known height field: heights and slopes', async () => {
  const h = (x: number, y: number) => 0.05 * Math.sin(5 * x) * Math.cos(4 * y);
  const high = grid(400, 400, (u, v) => {
    const [x, y] = [(u * 2 - 1) * 1.1, (1 - v * 2) * 1.1];
    return { p: [x, y, h(x, y)], n: normalOf(x, y) };
  });
  function normalOf(x: number, y: number) {
    const n = [-0.25 * Math.cos(5 * x) * Math.cos(4 * y), 0.2 * Math.sin(5 * x) * Math.sin(4 * y), 1];
    unit(n);
    return n;
  }
  const { maps } = await bake([model('a.glb', { high, low: square(1) })], [{ high: 'high', low: 'low' }], {
    maps: ['normal', 'height'],
    size: 64,
    bits: 16,
    samples: 1,
  });
  let worst = 0;
  for (let j = 0; j < 64; j++)
    for (let i = 0; i < 64; i++) {
      const [x, y] = [((i + 0.5) / 64) * 2 - 1, 1 - ((j + 0.5) / 64) * 2];
      expect(texel(maps, 'height', i, j)[0]).toBeCloseTo(h(x, y), 4);
      worst = Math.max(worst, degrees(vector(texel(maps, 'normal', i, j), 65535), normalOf(x, y)));
    }
  expect(worst).toBeLessThan(0.1);
});

test('AO of a floor beside an infinite wall', async () => {
  const height = 0.5;
  const floor = square(1);
  // The wall stands at x = −1, looking along +x, and is as good as endless.
  const wall = grid(1, 1, (u, v) => ({ p: [-1, (u * 2 - 1) * 200, height * (1 - v)], n: [1, 0, 0] }));
  const { maps } = await bake(
    [model('a.glb', { floor, wall, low: square(1) })],
    [
      {
        name: 'floor',
        high: [
          { path: 'a.glb', name: 'floor' },
          { path: 'a.glb', name: 'wall' },
        ],
        low: [{ path: 'a.glb', name: 'low' }],
        sheet: null,
        outward: 0.01,
        inward: 0.01,
        move: [0, 0, 0],
        cage: null,
        surface: null,
        offsets: {},
        localReaches: [],
      },
    ],
    { maps: ['ao'], size: 64, samples: 4, bits: 16, ao: { rays: 1024 } },
  );
  for (let i = 1; i < 64; i++) {
    // A column of texels says the same: the mean takes the noise of rays away, not an error.
    let sum = 0;
    for (let j = 0; j < 64; j++) sum += texel(maps, 'ao', i, j)[0] / 65535 / 64;
    const x = ((i + 0.5) / 64) * 2;
    expect(Math.abs(sum - 0.5 * (1 + x / Math.sqrt(x * x + height * height)))).toBeLessThan(0.01);
    expect(
      Math.abs(texel(maps, 'ao', i, 20)[0] / 65535 - 0.5 * (1 + x / Math.sqrt(x * x + height * height))),
    ).toBeLessThan(0.02);
  }
});

test.each([
  [1, false],
  [2, false],
  [0.7, false],
  [1, true],
  [2, true],
] as const)('curvature of a sphere of radius %f (inside %s)', async (radius, inside) => {
  const r = 0.5;
  const shape = sphere(radius, 128, inside);
  const { maps } = await bake(
    [model('a.glb', { high: shape, low: shape })],
    [{ high: 'high', low: 'low' }],
    {
      maps: ['curvature', 'convex', 'concave'],
      size: 32,
      samples: 4,
      bits: 16,
      curvature: { radius: r },
    },
    { outward: 0.01, inward: 0.01 },
  );
  const truth = (inside ? -1 : 1) * (r / radius);
  for (let j = 3; j < 29; j++)
    for (let i = 0; i < 32; i += 3) {
      expect(Math.abs(texel(maps, 'curvature', i, j)[0] / 65535 - (0.5 + truth / 2))).toBeLessThan(0.02);
      expect(Math.abs(texel(maps, inside ? 'concave' : 'convex', i, j)[0] / 65535 - Math.abs(truth))).toBeLessThan(
        0.04,
      );
    }
});

test('thickness of a slab is its height over the limit, position tells the place in the box', async () => {
  const slab = 0.1;
  const top = square(4, 0);
  const bottom = grid(1, 1, (u, v) => ({ p: [(1 - u * 2) * 4, (1 - v * 2) * 4, -slab], n: [0, 0, -1] }));
  const { maps } = await bake(
    [model('a.glb', { top, bottom, low: square(1) })],
    [
      {
        name: 'slab',
        high: ['top', 'bottom'].map((name) => ({ path: 'a.glb', name })),
        low: [{ path: 'a.glb', name: 'low' }],
        sheet: null,
        outward: 0.01,
        inward: 0.01,
        move: [0, 0, 0],
        cage: null,
        surface: null,
        offsets: {},
        localReaches: [],
      },
    ],
    { maps: ['thickness', 'position'], size: 32, samples: 4, bits: 16, thickness: { distance: 1 } },
  );
  // Cosine-weighted directions within 60°: the mean of 1/cos is 2 / (1 + cos 60°) = 4/3.
  let sum = 0;
  for (let i = 0; i < 32 * 32; i++) sum += texel(maps, 'thickness', i % 32, Math.floor(i / 32))[0] / 65535 / 1024;
  expect(sum).toBeCloseTo((slab * 4) / 3, 2);
  expect(texel(maps, 'position', 5, 9)[0] / 65535).toBeCloseTo(5.5 / 32, 3);
  expect(texel(maps, 'position', 5, 9)[1] / 65535).toBeCloseTo(1 - 9.5 / 32, 3);
});

test('a bumpy mesh on itself is flat; shifted it is not', async () => {
  const bumps = (dx: number) =>
    grid(120, 120, (u, v) => {
      const [x, y] = [u * 2 - 1, 1 - v * 2];
      const z = 0.03 * Math.sin(20 * (x + dx)) * Math.sin(17 * y);
      const n = [
        -0.6 * Math.cos(20 * (x + dx)) * Math.sin(17 * y),
        -0.51 * Math.sin(20 * (x + dx)) * Math.cos(17 * y),
        1,
      ];
      unit(n);
      return { p: [x, y, z], n };
    });
  const off = async (dx: number) => {
    const { maps } = await bake([model('a.glb', { high: bumps(dx), low: bumps(0) })], [{ high: 'high', low: 'low' }], {
      maps: ['normal'],
      size: 96,
      samples: 1,
      cast: 'own',
      bits: 16,
    });
    let sum = 0;
    for (let y = 8; y < 88; y++)
      for (let x = 8; x < 88; x++) sum += degrees(vector(texel(maps, 'normal', x, y), 65535), [0, 0, 1]) / 6400;
    return sum;
  };
  expect(await off(0)).toBeLessThan(0.1);
  expect(await off(0.05)).toBeGreaterThan(10);
});
