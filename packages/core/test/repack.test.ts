import { describe, expect, test } from 'vitest';
import { repackModel } from '../src/layout/repack.ts';
import { readModel } from '../src/scene/model.ts';
import { unwrapModel } from '../src/unwrap/unwrap.ts';
import { buildModel, imageKeyOfName } from './build.ts';
import { borderDistance, shapeDistance } from './gap.ts';

/** A box of some size as 24 vertices, each side on all of 0–1. */
function box(w: number, h: number, d: number): { positions: number[]; uvs: number[]; indices: number[] } {
  const positions: number[] = [];
  const uvs: number[] = [];
  const indices: number[] = [];
  const sides: [number[], number[], number[]][] = [
    [
      [0, 0, d],
      [w, 0, 0],
      [0, h, 0],
    ],
    [
      [w, 0, 0],
      [-w, 0, 0],
      [0, h, 0],
    ],
    [
      [w, 0, d],
      [0, 0, -d],
      [0, h, 0],
    ],
    [
      [0, 0, 0],
      [0, 0, d],
      [0, h, 0],
    ],
    [
      [0, h, d],
      [w, 0, 0],
      [0, 0, -d],
    ],
    [
      [0, 0, 0],
      [w, 0, 0],
      [0, 0, d],
    ],
  ];
  for (const [o, u, v] of sides) {
    const at = positions.length / 3;
    for (const [a, b] of [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ]) {
      positions.push(...o.map((c, k) => c + a * u[k] + b * v[k]));
      uvs.push(a, 1 - b);
    }
    indices.push(at, at + 1, at + 2, at, at + 2, at + 3);
  }
  return { positions, uvs, indices };
}

/** Triangles of a part by UV island, px. */
function islandsOf(model: ReturnType<typeof buildModel>, set: number, size: number): Float64Array[] {
  return model.parts.flatMap((part) => {
    const uv = part.uvs[set] as Float32Array;
    const out: number[][] = [];
    const island = new Map<string, number[]>();
    const key = (v: number) => `${uv[2 * v]} ${uv[2 * v + 1]}`;
    for (let t = 0; t < part.indices.length; t += 3) {
      const corners = [0, 1, 2].map((k) => part.indices[t + k]);
      const known = corners.map((v) => island.get(key(v))).find((i) => i !== undefined);
      const list = known ?? [];
      if (!known) out.push(list);
      for (const v of corners) island.set(key(v), list);
      list.push(...corners.flatMap((v) => [uv[2 * v] * size, uv[2 * v + 1] * size]));
    }
    return out.map((l) => Float64Array.from(l));
  });
}

const again = (model: ReturnType<typeof buildModel>) => readModel(model.path, model.document, imageKeyOfName);

const LAY = { set: 0, together: true, margin: 4, effort: 1, seed: 1, slots: [] };

describe('unwrapping a model', () => {
  const UNWRAP = { ...LAY, method: 'charts', axis: 'y', stretch: 1.05, spread: 1.25, cutAngle: 60, size: 256 } as const;

  test('two boxes in one 0–1: every side at its own density, none mirrored, all gaps kept', () => {
    const model = buildModel(
      [{ name: 'a' }, { name: 'b' }],
      [
        { ...box(1, 2, 0.5), slot: 'a' },
        { ...box(0.4, 0.4, 0.4), slot: 'b', scale: [2, 2, 2] },
      ],
    );
    const report = unwrapModel(model, UNWRAP);
    expect(report).toMatchObject({ parts: 2, triangles: 24, charts: 12 });
    expect(report.stretch).toBeCloseTo(1, 4);
    const read = again(model);
    const islands = islandsOf(read, 0, 256);
    expect(islands).toHaveLength(12);
    islands.forEach((island, i) => {
      expect(borderDistance(island, 256, 256)).toBeGreaterThanOrEqual(2 - 1e-3);
      for (let j = 0; j < i; j++) expect(shapeDistance(island, islands[j])).toBeGreaterThanOrEqual(4 - 1e-3);
      // Seen from outside counter-clockwise, and V runs down.
      for (let k = 0; k < island.length; k += 6)
        expect(
          (island[k + 2] - island[k]) * (island[k + 5] - island[k + 1]) -
            (island[k + 4] - island[k]) * (island[k + 3] - island[k + 1]),
        ).toBeLessThan(0);
    });
    const area = islands.reduce((sum, island) => sum + shapeArea(island), 0);
    const world = 2 * (2 + 0.5 + 1) + 6 * 0.64;
    expect(Math.sqrt(area / world)).toBeCloseTo(report.density, 1);
    expect(area / 256 ** 2).toBeCloseTo(report.coverage, 3);
  });

  test('a second set leaves the first as it was, to the bit', () => {
    const model = buildModel([{ name: 'a' }], [{ ...box(1, 1, 1), slot: 'a' }]);
    const before = cornerUvs(model, 0);
    unwrapModel(model, { ...UNWRAP, set: 1 });
    const read = again(model);
    expect(cornerUvs(read, 0)).toEqual(before);
    expect(islandsOf(read, 1, 256)).toHaveLength(6);
  });
});

const cornerUvs = (model: ReturnType<typeof buildModel>, set: number) =>
  model.parts.flatMap((part) =>
    Array.from(part.indices, (v) => [...(part.uvs[set] as Float32Array).subarray(2 * v, 2 * v + 2)]),
  );

function shapeArea(s: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < s.length; i += 6)
    sum += Math.abs((s[i + 2] - s[i]) * (s[i + 5] - s[i + 1]) - (s[i + 4] - s[i]) * (s[i + 3] - s[i + 1])) / 2;
  return sum;
}

describe('packing UVs anew', () => {
  const PACK = { ...LAY, width: 256, height: 128, rotate: 'free', even: true, snap: false } as const;

  test('stacks stay one, sizes follow the surface, nothing leaves the sheet', () => {
    const quad = (x: number, w: number) => ({
      positions: [x, 0, 0, x + w, 0, 0, x + w, w, 0, x, w, 0],
      uvs: [0, 1, 1, 1, 1, 0, 0, 0],
      indices: [0, 1, 2, 0, 2, 3],
      slot: 'a',
    });
    const other = { ...quad(9, 2), uvs: [3, 0.5, 3.5, 0.5, 3.5, 0, 3, 0] };
    const model = buildModel([{ name: 'a' }], [quad(0, 1), quad(5, 1), other]);
    const report = repackModel(model, PACK);
    expect(report).toMatchObject({ islands: 3, stacked: 1, layouts: 1 });
    expect(report.coverage).toBeGreaterThan(0.4);
    const [first, duplicate, large] = islandsOf(again(model), 0, 1);
    expect(duplicate).toEqual(first);
    // The same px per metre: twice as wide is four times the area.
    const px = (a: Float64Array) => shapeArea(a) * 256 * 128;
    expect(px(large) / px(first)).toBeCloseTo(4, 3);
    for (const v of [...first, ...large]) {
      expect(v).toBeGreaterThan(0);
      expect(v).toBeLessThan(1);
    }
  });

  test('slots have layouts of their own unless they are to be together; a set that is not there is said', () => {
    const two = () =>
      buildModel(
        [{ name: 'a' }, { name: 'b' }],
        [
          { ...box(1, 2, 3), slot: 'a' },
          { ...box(2, 2, 2), slot: 'b' },
        ],
      );
    expect(repackModel(two(), { ...PACK, together: false }).layouts).toBe(2);
    expect(repackModel(two(), { ...PACK, slots: ['b'] }).layouts).toBe(1);
    expect(() => repackModel(two(), { ...PACK, set: 2 })).toThrow(/no part has a UV set 2/);
  });
});
