import { expect, test } from 'vitest';
import {
  buildLevels,
  type LevelSet,
  levelCount,
  levelOffsets,
  levelSetLength,
  sampleLevels,
  Wrap,
} from '../src/sample.ts';
import { LevelSampler, levelHome } from '../src/sampler.ts';

function texture(width: number, height: number, texels: number[][], alphaWeighted = false): LevelSet {
  const levels = levelCount(width, height);
  const set: LevelSet = {
    width,
    height,
    levels,
    offsets: levelOffsets(width, height, levels),
    data: new Float32Array(levelSetLength(width, height, levels)),
    alphaWeighted,
  };
  set.data.set(texels.flat());
  buildLevels(set);
  return set;
}

const grey = (v: number) => [v, v, v, 1];
const at = (set: LevelSet, u: number, v: number, lod = 0, wrap: number = Wrap.repeat, nearest = false) => {
  const out = new Float64Array(7);
  sampleLevels(set, u, v, lod, wrap, wrap, nearest, out);
  return [...out.subarray(0, 4)];
};

test('a texel centre reads exactly its texel, between two it reads the mean', () => {
  const set = texture(4, 1, [grey(0.1), grey(0.5), grey(0.9), grey(0.3)]);
  expect(at(set, 1.5 / 4, 0.5)[0]).toBeCloseTo(0.5, 6);
  expect(at(set, 2 / 4, 0.5)[0]).toBeCloseTo(0.7, 6);
  expect(at(set, 1.9 / 4, 0.5, 0, Wrap.repeat, true)[0]).toBeCloseTo(0.5, 6);
});

test('outside 0–1 each wrap mode reads what the specification says', () => {
  const set = texture(4, 1, [grey(0), grey(0.2), grey(0.4), grey(0.6)]);
  const u = (i: number) => (i + 0.5) / 4;
  const row = (mode: number) => [-2, -1, 4, 5].map((i) => Number(at(set, u(i), 0.5, 0, mode)[0].toFixed(3)));
  expect(row(Wrap.repeat)).toEqual([0.4, 0.6, 0, 0.2]);
  expect(row(Wrap.mirror)).toEqual([0.2, 0, 0.6, 0.4]);
  expect(row(Wrap.clamp)).toEqual([0, 0, 0.6, 0.6]);
});

test('every level holds the mean of the one above, down to one texel, odd sizes too', () => {
  const set = texture(3, 1, [grey(0.3), grey(0.6), grey(0.9)]);
  expect(set.levels).toBe(2);
  expect(at(set, 0.5, 0.5, 1)[0]).toBeCloseTo(0.6, 6);
  const even = texture(2, 2, [grey(0), grey(1), grey(1), grey(0)]);
  expect(at(even, 0.1, 0.1, 1)[0]).toBeCloseTo(0.5, 6);
  expect(at(even, 0.25, 0.25, 0.5)[0]).toBeCloseTo(0.25, 6);
});

test('clear texels lend no colour to their neighbours', () => {
  const red = [1, 0, 0, 1];
  const clearGreen = [0, 1, 0, 0];
  const set = texture(2, 1, [red, clearGreen], true);
  expect(at(set, 0.5, 0.5)).toEqual([1, 0, 0, 0.5]);
  expect(at(set, 0.5, 0.5, 1)).toEqual([1, 0, 0, 0.5]);
  // Where nothing is to be seen the colour itself stays.
  expect(at(set, 0.75, 0.5)).toEqual([0, 1, 0, 0]);
  const plain = texture(2, 1, [red, clearGreen]);
  expect(at(plain, 0.5, 0.5)).toEqual([0.5, 0.5, 0, 0.5]);
});

test('the kernel reads what the plain form reads, to the bit: sizes, wraps, levels, nearest, alpha', () => {
  let seed = 7;
  const next = () => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    return seed / 2 ** 32;
  };
  const wraps = Object.values(Wrap);
  const out = new Float64Array(7);
  let read = 0;
  for (const [width, height] of [
    [1, 1],
    [2, 3],
    [16, 8],
    [33, 7],
  ])
    for (const alphaWeighted of [false, true]) {
      const levels = levelCount(width, height);
      const home = levelHome(levelSetLength(width, height, levels) * 4, 2);
      if (!home) throw new Error('no memory');
      const data = new Float32Array(home.memory.buffer, 0, levelSetLength(width, height, levels));
      const set = { width, height, levels, offsets: levelOffsets(width, height, levels), data, alphaWeighted, home };
      // Some texels are clear, some nearly so.
      for (let i = 0; i < width * height * 4; i++)
        data[i] = i % 4 === 3 ? [0, 1e-8, 0.3, 1][Math.floor(next() * 4)] : next();
      buildLevels(set);
      const samplers = [new LevelSampler(set, 0), new LevelSampler(set, 1)];
      for (let round = 0; round < 60; round++) {
        const lod = [0, -1, 0.5, 1, next() * 6, 99][round % 6];
        const [s, t] = [wraps[round % 3], wraps[Math.floor(next() * 3)]];
        const nearest = next() < 0.3;
        const places = Array.from({ length: 20 }, () => (next() - 0.4) * 10 ** (next() * 4));
        samplers.forEach((x, k) => {
          x.uv.set(
            places.map((v) => v + k),
            6,
          );
          x.read(3, 13, lod, s, t, nearest);
        });
        samplers.forEach((x, k) => {
          for (let i = 3; i < 13; i++) {
            sampleLevels(set, places[(i - 3) * 2] + k, places[(i - 3) * 2 + 1] + k, lod, s, t, nearest, out);
            expect([...x.values.subarray(i * 4, i * 4 + 4)]).toEqual([...out.subarray(0, 4)]);
            read++;
          }
        });
      }
    }
  expect(read).toBe(4 * 2 * 60 * 20);
});

test('a set without a home is read all the same; areas beyond the last have memory of their own', () => {
  const set = texture(
    4,
    4,
    Array.from({ length: 16 }, (_, i) => grey(i / 16)),
  );
  const sampler = new LevelSampler(set, 3);
  sampler.uv.set([0.3, 0.7]);
  sampler.read(0, 1, 0, Wrap.repeat, Wrap.repeat, false);
  expect([...sampler.values.subarray(0, 4)]).toEqual(at(set, 0.3, 0.7));
});

test('sums over the samples of texels: the kernel as the plain form to the bit', () => {
  const levels = levelCount(16, 8);
  const bytes = levelSetLength(16, 8, levels) * 4;
  const home = levelHome(bytes, 1);
  if (!home) throw new Error('no memory');
  const data = new Float32Array(home.memory.buffer, 0, bytes / 4);
  for (let i = 0; i < 16 * 8 * 4; i++) data[i] = ((i * 2654435761) >>> 0) / 2 ** 32;
  const set: LevelSet = {
    width: 16,
    height: 8,
    levels,
    offsets: levelOffsets(16, 8, levels),
    data,
    alphaWeighted: true,
  };
  buildLevels(set);
  const [kernel, plain] = [new LevelSampler({ ...set, home }, 0), new LevelSampler(set, 0)];
  const places = { u0: -0.31, ux: 0.027, uy: 0.003, v0: 1.7, vx: -0.011, vy: 0.05 };
  for (const [n, lod, nearest] of [
    [1, 0, false],
    [3, 0.4, false],
    [8, 2.7, false],
    [4, 0.6, true],
  ] as const) {
    for (const levelSampler of [kernel, plain]) {
      for (let i = 0; i < 20; i++) levelSampler.corners.set([i * 3, 7 - i], i * 2);
      levelSampler.sum(2, 20, n, places, lod, Wrap.mirror, Wrap.repeat, nearest);
    }
    expect([...kernel.sums.subarray(8, 80)]).toEqual([...plain.sums.subarray(8, 80)]);
  }
});
