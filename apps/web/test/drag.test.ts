import { PinnedBay } from '@wembrel/core/decisions/sheets';
import { placePoint } from '@wembrel/core/layout/place';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { inLasso, islandFill, within } from '../src/stage/bay.ts';
import {
  boxAround,
  type Change,
  changeText,
  cornersOf,
  frameOf,
  middleOf,
  scaleTo,
  turnTo,
} from '../src/stage/drag.ts';
import { changedPlaces, pinFor, placeOf, shapeMiddle } from '../src/views/uv/hand.ts';
import { bay } from './bay.ts';

const three = [bay(1, 100, 50, 40, 20), bay(2, 200, 90, 10, 60), bay(3, 150, 120, 30, 30)];
const box = boxAround(three);
const SHEET = { width: 512, height: 512 };

test('a corner is scaled to where it is dragged, the opposite one stays; never to nothing', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 3 }), fc.double({ min: 0.2, max: 4, noNaN: true }), (corner, factor) => {
      const corners = cornersOf(box);
      const [from, about] = [corners[corner], corners[(corner + 2) % 4]];
      const to = [0, 1].map((k) => about[k] + factor * (from[k] - about[k])) as [number, number];
      const change = scaleTo(box, corner, from, to);
      expect(change).toMatchObject({ kind: 'scale', factor: expect.closeTo(factor, 9), about });
      const [a, b, d, e, f, g] = frameOf(change);
      expect([a * about[0] + d * about[1] + f, b * about[0] + e * about[1] + g]).toEqual([
        expect.closeTo(about[0], 6),
        expect.closeTo(about[1], 6),
      ]);
    }),
  );
  const [first, , third] = cornersOf(box);
  expect(scaleTo(box, 2, third, [2 * first[0] - third[0], 2 * first[1] - third[1]])).toMatchObject({ factor: 0.05 });
});

test('turning follows the pointer round the middle, is caught near to steps of 15°, and goes the shorter way', () => {
  const [mx, my] = middleOf(box);
  const at = (degrees: number, r = 80): [number, number] => [
    mx + r * Math.cos((degrees * Math.PI) / 180),
    my + r * Math.sin((degrees * Math.PI) / 180),
  ];
  const by = (from: number, to: number, free = false) =>
    (turnTo(box, at(from), at(to, 55), free) as { degrees: number }).degrees;
  expect(by(40, 79)).toBeCloseTo(39, 9);
  expect(by(10, 41)).toBe(30);
  expect(by(10, 41, true)).toBeCloseTo(31, 9);
  expect(by(170, -150, true)).toBeCloseTo(40, 9);
  expect(by(-170, 150, true)).toBeCloseTo(-40, 9);
});

test('what is drawn while it is dragged is where it is put', () => {
  const number = fc.double({ min: -60, max: 60, noNaN: true });
  const change: fc.Arbitrary<Change> = fc.oneof(
    fc.record({ kind: fc.constant('move' as const), dx: number, dy: number }),
    fc.record({
      kind: fc.constant('scale' as const),
      factor: fc.double({ min: 0.2, max: 3, noNaN: true }),
      about: fc.constantFrom(...cornersOf(box)),
    }),
    fc.record({ kind: fc.constant('turn' as const), degrees: number, about: fc.constant(middleOf(box)) }),
  );
  fc.assert(
    fc.property(change, (change) => {
      const [a, b, d, e, f, g] = frameOf(change);
      changedPlaces(three, change).forEach((place, i) => {
        const [x, y] = shapeMiddle(three[i], placeOf(three[i]));
        const [px, py] = shapeMiddle(three[i], place);
        expect(px).toBeCloseTo(a * x + d * y + f, 6);
        expect(py).toBeCloseTo(b * x + e * y + g, 6);
        expect(place.scale / three[i].scale).toBeCloseTo(Math.hypot(a, b), 9);
        expect(place.turned - three[i].turned).toBeCloseTo((Math.atan2(b, a) * 180) / Math.PI, 9);
      });
    }),
  );
});

test('a diamond, turned by an eighth, is chosen, lined up and kept on the sheet by what it shows', () => {
  // Its box as turned is 100 px, what it shows 60 px wide.
  const p = {
    ...bay(7, 100, 100, 100, 100),
    turned: 45,
    natural: [140, 140] as [number, number],
    extent: [120, 120, 60, 60] as [number, number, number, number],
    path: 'M150 120L180 150L150 180L120 150Z',
  };
  expect(boxAround([p])).toEqual({ left: 120, top: 120, right: 180, bottom: 180 });
  expect(within([p], [100, 100, 119, 300])).toEqual([]);
  expect(within([p], [100, 100, 121, 300])).toEqual([7]);
  expect(
    inLasso(
      [p],
      [
        [140, 140],
        [160, 140],
        [150, 170],
      ],
    ),
  ).toEqual([7]);
  const left = pinFor(p, { ...placeOf(p), x: 20, y: 300 }, SHEET);
  // What it shows comes to x = 0; its box reaches over the side.
  expect(left.x + left.width / 2).toBeCloseTo(30, 6);
  expect(left.x).toBeLessThan(0);
  const right = pinFor(p, { ...placeOf(p), x: 900, y: 300 }, SHEET);
  expect(right.x + right.width / 2).toBeCloseTo(512 - 30, 6);
  // Turned back to a square on its side it shows 60 · √½ px each way.
  const back = pinFor(p, { ...placeOf(p), x: 0, y: 0, turned: 1e-9 }, SHEET);
  expect(back.x + back.width / 2).toBeCloseTo((60 * Math.SQRT1_2) / 2, 3);
});

test('scaled by a corner, the opposite one stays to the part of a px, though boxes are of whole px', () => {
  fc.assert(
    fc.property(fc.double({ min: 0.3, max: 3, noNaN: true }), fc.constantFrom(0, 90, 180, -90), (factor, turned) => {
      const [w, h] = turned % 180 === 0 ? [40, 20] : [20, 40];
      const p = {
        ...bay(1, 4, 4, w, h),
        turned,
        natural: [80, 40] as [number, number],
        size: [40, 20] as [number, number],
      };
      const [at] = changedPlaces([p], { kind: 'scale', factor, about: [4, 4] });
      const pin = pinFor(p, at, SHEET);
      const [boxWidth, boxHeight] = [80, 40].map((v) => Math.max(1, Math.ceil(v * pin.scale - 1e-6)));
      const placed = { ...pin, kind: 'plot', originX: 0, originY: 0, boxWidth, boxHeight } as never;
      const corners = [placePoint(placed, 0, 0), placePoint(placed, 80, 40)];
      expect(Math.min(...corners.map((corner) => corner[0]))).toBeCloseTo(4, 6);
      expect(Math.min(...corners.map((corner) => corner[1]))).toBeCloseTo(4, 6);
    }),
  );
});

test('no bay becomes sharper than any may be', () => {
  const factor = 1000;
  const places = changedPlaces(three, { kind: 'scale', factor, about: [0, 0] });
  expect(places.map((place) => place.scale)).toEqual([64, 64, 64]);
  for (const [i, at] of places.entries()) expect(PinnedBay.safeParse(pinFor(three[i], at, SHEET)).success).toBe(true);
});

test('a drag is told in words', () => {
  expect(changeText({ kind: 'move', dx: 3.04, dy: -0.26 })).toBe('+3.0, −0.3 px');
  expect(changeText({ kind: 'scale', factor: 1.25, about: [0, 0] })).toBe('× 1.250');
  expect(changeText({ kind: 'turn', degrees: -12.34, about: [0, 0] })).toBe('−12.3°');
});

test('texels are never tinted by what is selected or pointed at, only by colours that were asked for', () => {
  const at = { tinted: false, filled: false, selected: false, lit: false };
  for (const selected of [false, true])
    for (const lit of [false, true]) {
      expect(islandFill({ ...at, selected, lit })).toBe(0);
      expect(islandFill({ ...at, selected, lit, filled: true })).toBeGreaterThan(0);
      expect(islandFill({ ...at, selected, lit, tinted: true })).toBe(0.85);
    }
});
