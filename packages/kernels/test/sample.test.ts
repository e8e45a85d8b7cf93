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
