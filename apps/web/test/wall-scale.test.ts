import { expect, test } from 'vitest';
import { neededShare, wallOrder, wallScale } from '../src/views/survey/wall-scale.ts';

const picture = (width: number, height: number, usefulSide = Math.max(width, height), nearlyFlat = false) => ({
  width,
  height,
  usefulSide,
  nearlyFlat,
});

test('all textures have one scale; the longest side is as long as asked', () => {
  expect(wallScale([picture(1024, 512), picture(256, 2048)], 160)).toBe(160 / 2048);
  expect(wallScale([], 160)).toBe(160);
});

test('the needed share is that of the sides, never more than all, of one colour a single texel', () => {
  expect(neededShare(picture(1024, 512, 256))).toBe(0.25);
  expect(neededShare(picture(64, 64, 128))).toBe(1);
  expect(neededShare(picture(512, 512, 512, true))).toBe(1 / 512);
});

test('the largest hang first, equal ones in their order', () => {
  expect(wallOrder([picture(64, 64), picture(512, 512), picture(64, 64), picture(256, 256)])).toEqual([1, 3, 0, 2]);
});
