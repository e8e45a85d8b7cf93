import { expect, test } from 'vitest';
import { smallerSides } from '../src/views/uv/smaller-sides.ts';
import { bay } from './bay.ts';

const decided = { kind: 'atlas' as const, size: 512, height: null, margin: 4 };
const sides = (boxes: [number, number][], more: object = {}, scale = 1) =>
  smallerSides({ ...decided, ...more }, { scale, plots: boxes.map(([w, h], i) => bay(i, 0, 0, w, h)) });

test('the smallest sheet is named that has room for all boxes with their margin, and for the longest', () => {
  expect(sides([[16, 16]])).toEqual([64, 64]);
  expect(sides([[100, 20]])).toEqual([128, 64]);
  expect(sides([[100, 100]])).toEqual([128, 128]);
  // 30 × 30 px with the margin are 36 · 900 = 32 400 px²: 256 × 128 have 32 768.
  expect(sides(Array.from({ length: 36 }, () => [26, 26]))).toEqual([256, 128]);
  expect(sides(Array.from({ length: 37 }, () => [26, 26]))).toEqual([256, 256]);
});

test('nothing is named where nothing is smaller, sharper sources wait, nothing is there, or a sheet has its own order', () => {
  expect(sides([[300, 300]])).toBeNull();
  expect(sides([[100, 100]], { size: 128, height: 128 })).toBeNull();
  expect(sides([[16, 16]], {}, 0.8)).toBeNull();
  expect(sides([])).toBeNull();
  expect(sides([[16, 16]], { kind: 'tile' })).toBeNull();
  expect(sides([[100, 100]], { size: 64, height: 2048 })).toEqual([128, 128]);
});
