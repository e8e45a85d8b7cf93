import { buildBvh } from '@wembrel/kernels/bvh';
import { describe, expect, test } from 'vitest';
import type { FaultKind, RayFault } from '../../src/rays/maps/fault-kinds.ts';
import { pairing } from '../../src/rays/pairing/pairings.ts';
import { sweepReaches } from '../../src/rays/pairing/sweep.ts';
import { bake, cube, grid, model, type Shape, square } from './scenes.ts';

const kinds = (faults: RayFault[]): FaultKind[] => faults.map((fault) => fault.kind);
const one = { high: 'high', low: 'low' };
const settings = { maps: ['normal' as const], size: 64, samples: 1 as const, padding: 2 };

/** A square of cells of which some are left out. */
function holed(half: number, keep: (x: number, y: number) => boolean): Shape {
  const shape = square(half, 0, 20);
  const kept: number[] = [];
  for (let i = 0; i < shape.indices.length; i += 3) {
    const mid = (k: number) =>
      (shape.positions[shape.indices[i] * 3 + k] +
        shape.positions[shape.indices[i + 1] * 3 + k] +
        shape.positions[shape.indices[i + 2] * 3 + k]) /
      3;
    if (keep(mid(0), mid(1))) kept.push(shape.indices[i], shape.indices[i + 1], shape.indices[i + 2]);
  }
  return { ...shape, indices: kept };
}

/** Shapes as one. */
function joined(...shapes: Shape[]): Shape {
  const out: Shape = { positions: [], normals: [], uvs: [], indices: [] };
  for (const shape of shapes) {
    const base = out.positions.length / 3;
    out.positions.push(...shape.positions);
    (out.normals as number[]).push(...(shape.normals as number[]));
    (out.uvs as number[]).push(...(shape.uvs as number[]));
    out.indices.push(...shape.indices.map((v) => v + base));
  }
  return out;
}

const placed = (shape: Shape, u: number, v: number, by: number): Shape => ({
  ...shape,
  uvs: (shape.uvs as number[]).map((uv, i) => (i % 2 === 0 ? u : v) + uv * by),
});

describe('missed', () => {
  test.each([
    ['a hole', (x: number, y: number) => Math.abs(x) > 0.3 || Math.abs(y) > 0.3, true],
    ['no hole', () => true, false],
  ] as const)('%s', async (_, keep, expected) => {
    const { faults, maps } = await bake([model('a.glb', { high: holed(1.2, keep), low: square(1) })], [one], settings);
    expect(kinds(faults).includes('missed')).toBe(expected);
    if (!expected) return;
    const [rayFault] = faults;
    // The hole is 0.6 m wide on a sheet of 2 m; its midst is that of the sheet.
    expect(rayFault.extent).toBeGreaterThan(0.3);
    expect(rayFault.extent).toBeLessThan(0.7);
    expect(Math.abs(rayFault.sheet[0] - 32)).toBeLessThan(3);
    expect(Math.abs(rayFault.place[0])).toBeLessThan(0.1);
    // Filled from its neighbours all the same.
    const o = (32 * 64 + 32) * 3;
    for (const c of [0, 1]) expect(Math.abs(maps.maps[0].data[o + c] - 127.5)).toBeLessThan(2);
    expect(maps.maps[0].data[o + 2]).toBe(255);
  });
});

describe('stray', () => {
  const plate = () => square(1);
  const post = (): Shape => cube(0.3, false, [0, 0, 0.3]);
  const models = () => [
    model('a.glb', {
      plateHigh: plate(),
      postHigh: post(),
      plateLow: placed(plate(), 0.02, 0.02, 0.4),
      postLow: placed(post(), 0.5, 0.5, 0.45),
    }),
  ];
  const ref = (name: string) => ({ path: 'a.glb', name });
  // So wide that the plate's rays begin above the post.
  const wide = { outward: 0.8, inward: 0.1 };
  test('two touching parts in one pairing', async () => {
    const both = pairing('both', [ref('plateHigh'), ref('postHigh')], [ref('plateLow'), ref('postLow')]);
    expect(kinds((await bake(models(), [both], settings, wide)).faults)).toContain('stray');
  });
  test('each with its own', async () => {
    const list = [
      pairing('plate', [ref('plateHigh')], [ref('plateLow')]),
      pairing('post', [ref('postHigh')], [ref('postLow')]),
    ];
    expect(kinds((await bake(models(), list, settings, wide)).faults)).not.toContain('stray');
  });
});

describe('skewed', () => {
  test.each([
    ['smoothed', true],
    ['faceted', false],
  ] as const)('a box inside a box, cast along %s normals', async (cast, expected) => {
    const models = [model('a.glb', { high: cube(0.8), low: cube(1) })];
    const { faults } = await bake(models, [one], { ...settings, cast, size: 128 });
    expect(kinds(faults).includes('skewed')).toBe(expected);
  });
});

describe('clash', () => {
  test.each([
    ['on each other', 0.05, true],
    ['side by side', 0.55, false],
  ] as const)('two islands %s', async (_, u, expected) => {
    const a = placed(square(1), 0.05, 0.1, 0.4);
    const b = placed(
      grid(1, 1, (s, t) => ({ p: [3 + s, 1 - t, 0], n: [0, 0, 1] })),
      u,
      0.1,
      0.4,
    );
    const shape = joined(a, b);
    const { faults } = await bake([model('a.glb', { high: shape, low: shape })], [one], settings);
    expect(kinds(faults).includes('clash')).toBe(expected);
  });
});

test.each([
  [4, false],
  [8, true],
])('thin margin: islands 6 px apart, %i px wanted', async (margin, expected) => {
  const a = placed(square(1), 4 / 64, 4 / 64, 20 / 64);
  const b = placed(
    grid(1, 1, (s, t) => ({ p: [3 + s, 1 - t, 0], n: [0, 0, 1] })),
    30 / 64,
    4 / 64,
    20 / 64,
  );
  const shape = joined(a, b);
  const { faults } = await bake([model('a.glb', { high: shape, low: shape })], [one], { ...settings, margin });
  expect(kinds(faults).includes('thin margin')).toBe(expected);
});

describe('edges', () => {
  /** A roof of two slopes over one strip of UVs; `split` gives each slope its own vertices and normals. */
  function roof(turn: number, split: boolean, apart: boolean): Shape {
    const half = (turn * Math.PI) / 360;
    const [c, s] = [Math.cos(half), Math.sin(half)];
    const slope = (side: -1 | 1): Shape => ({
      positions: [0, 0, 0, 0, 1, 0, side * c, 1, -s, side * c, 0, -s],
      normals: split
        ? [side * s, 0, c, side * s, 0, c, side * s, 0, c, side * s, 0, c]
        : [0, 0, 1, 0, 0, 1, side * s, 0, c, side * s, 0, c],
      uvs: [0, 1, 0, 0, 1, 0, 1, 1].map((v, i) =>
        i % 2 ? 0.1 + v * 0.8 : 0.5 + side * (v * 0.4 + (apart ? 0.05 : 0)),
      ),
      indices: side > 0 ? [0, 2, 1, 0, 3, 2] : [0, 1, 2, 0, 2, 3],
    });
    return joined(slope(-1), slope(1));
  }
  test.each([
    ['90° smoothed', 90, false, false, 'steep smooth edge'],
    ['70° smoothed', 70, false, false, null],
    ['90° split, with a UV border', 90, true, true, null],
    ['90° split, without one', 90, true, false, 'unsplit hard edge'],
  ] as const)('%s', async (_, turn, split, apart, expected) => {
    const shape = roof(turn, split, apart);
    const { faults } = await bake([model('a.glb', { high: shape, low: shape })], [one], settings, {
      outward: 0.01,
      inward: 0.01,
    });
    const found = kinds(faults).filter((k) => k === 'steep smooth edge' || k === 'unsplit hard edge');
    expect(found).toEqual(expected ? [expected] : []);
    if (expected)
      expect(faults.find((fault) => fault.kind === expected)).toMatchObject({ of: 'edges', count: 1, extent: 1 });
  });
});

describe('cage crossing itself', () => {
  /** A groove: two walls that face each other, 0.4 m apart, and its floor. */
  const groove = (): Shape => {
    const at: [number, number][] = [
      [-0.2, 1],
      [-0.2, 0],
      [0.2, 0],
      [0.2, 1],
    ];
    const n: [number, number][] = [
      [1, 0],
      [0, 1],
      [-1, 0],
    ];
    return joined(
      ...[0, 1, 2].map((k) =>
        grid(
          1,
          1,
          (u, v) => ({
            p: [at[k][0] + (at[k + 1][0] - at[k][0]) * u, v * 2, at[k][1] + (at[k + 1][1] - at[k][1]) * u],
            n: [n[k][0], 0, n[k][1]],
          }),
          (u, v) => [0.05 + k * 0.3 + u * 0.25, 0.05 + v * 0.9],
        ),
      ),
    );
  };
  test.each([
    [0.1, false],
    [0.4, true],
  ])('reach %f', async (outward, expected) => {
    const shape = groove();
    for (let i = 0; i < shape.indices.length; i += 3)
      [shape.indices[i + 1], shape.indices[i + 2]] = [shape.indices[i + 2], shape.indices[i + 1]];
    const { faults } = await bake(
      [model('a.glb', { high: shape, low: shape })],
      [one],
      { ...settings, cast: 'faceted' },
      { outward, inward: 0.01 },
    );
    expect(kinds(faults).includes('cage crossing itself')).toBe(expected);
  });
});

test('finding reaches: long enough for what stands out, short enough for what stands opposite', async () => {
  const bolt = cube(0.11, false, [0, 0, 0.11]);
  const floor = joined(square(1, 0, 8), bolt);
  // A ceiling 0.6 m above looks down; a ray that starts beyond it meets what lies on top of it.
  const ceiling = grid(1, 1, (u, v) => ({ p: [(1 - u * 2) * 1, (1 - v * 2) * 1, 0.6], n: [0, 0, -1] }));
  const top = grid(1, 1, (u, v) => ({ p: [(u * 2 - 1) * 1, (1 - v * 2) * 1, 0.62], n: [0, 0, 1] }));
  const lows = joined(placed(square(1), 0, 0, 0.45), placed(ceiling, 0.5, 0, 0.45), placed(top, 0, 0.5, 0.45));
  const models = [model('a.glb', { high: joined(floor, ceiling, top), low: lows })];
  const { jobs } = await bake(models, [one], settings);
  const [job] = jobs;
  const meshes = {
    target: job.target,
    pieces: job.pieces,
    lowBvh: buildBvh(job.target.mesh.positions, job.target.mesh.indices),
    high: job.high,
    highBvh: buildBvh(job.high.positions, job.high.indices),
  };
  const sweep = sweepReaches(meshes, { outward: 0.4, inward: 0.02 });
  expect(sweep.best.outward).toBeGreaterThan(0.22);
  expect(sweep.best.outward).toBeLessThan(0.6);
  const at = (share: number) => sweep.points.find((point) => Math.abs(point.outward - 0.4 * share) < 1e-9);
  expect(at(0.05)?.cut).toBeGreaterThan(0.002);
  expect(at(4)?.stray).toBeGreaterThan(0.2);
});
