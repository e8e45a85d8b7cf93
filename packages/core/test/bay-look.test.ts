import { Wrap } from '@wembrel/kernels/sample';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { bayLook } from '../src/layout/bay-look.ts';
import { plotsBySheet } from '../src/layout/layout.ts';
import type { PlacedShape } from '../src/layout/packable.ts';
import { placeFrame, placePoint } from '../src/layout/place.ts';
import { plotStretch, triangleStretch } from '../src/layout/stretch.ts';
import { route } from '../src/plan/route.ts';
import { readModel } from '../src/scene/model.ts';
import { buildModel, decide, imageKeyOfName, PICTURES, quad, sizesOf } from './build.ts';
import { plot } from './plot.ts';

const whole = fc.integer({ min: -9, max: 9 });
const dot = (a: number[], b: number[]) => a.reduce((sum, v, i) => sum + v * b[i], 0);

describe('one map for a whole bay', () => {
  test('puts every point where the bake does, however the bay is turned, mirrored and scaled', () => {
    fc.assert(
      fc.property(
        fc.record({
          x: fc.double({ min: -50, max: 4000, noNaN: true }),
          y: fc.double({ min: -50, max: 4000, noNaN: true }),
          turns: fc.constantFrom(0, 1, 2, 3),
          angle: fc.option(fc.double({ min: -3, max: 3, noNaN: true })),
          flip: fc.option(fc.integer({ min: 1, max: 500 }), { nil: undefined }),
          scale: fc.double({ min: 0.05, max: 4, noNaN: true }),
          originX: fc.integer({ min: -4096, max: 4096 }),
          originY: fc.integer({ min: -4096, max: 4096 }),
          point: fc.tuple(
            fc.double({ min: -8000, max: 8000, noNaN: true }),
            fc.double({ min: -8000, max: 8000, noNaN: true }),
          ),
        }),
        ({ angle, turns, point: [px, py], ...at }) => {
          const placed = {
            ...plot(0, new Float64Array(0)),
            ...at,
            turns: angle === null ? turns : 0,
            direction: angle === null ? undefined : [Math.cos(angle), Math.sin(angle)],
            sheet: 0,
            factor: 1,
            boxWidth: 123,
            boxHeight: 45,
          } as PlacedShape;
          const [a, b, c, d, e, f] = placeFrame(placed) as number[];
          const [x, y] = placePoint(placed, px, py);
          expect(a * px + c * py + e).toBeCloseTo(x, 5);
          expect(b * px + d * py + f).toBeCloseTo(y, 5);
        },
      ),
    );
  });

  test('a swatch has none: it is one point', () => {
    const swatch = { ...plot(0, new Float64Array(0)), kind: 'swatch', x: 3, y: 4, turns: 0, scale: 1 } as never;
    expect(placeFrame(swatch)).toBeNull();
  });
});

describe('stretch', () => {
  test('is the ratio of the scales that a triangle was made with, turned anyhow on both sides', () => {
    fc.assert(
      fc.property(
        fc.tuple(whole, whole, whole, whole),
        fc.double({ min: -3, max: 3, noNaN: true }),
        fc.double({ min: 0.1, max: 3, noNaN: true }),
        fc.double({ min: 1, max: 9, noNaN: true }),
        fc.tuple(whole, whole, whole),
        ([a, b, c, d], angle, size, ratio, axis) => {
          fc.pre(a * d !== b * c && axis.some((v) => v !== 0));
          // UV turned, scaled along one axis, and laid into a plane anywhere in space.
          const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
          const n = axis.map((v) => v / Math.hypot(...axis));
          const other = Math.abs(n[0]) < 0.6 ? [1, 0, 0] : [0, 1, 0];
          const u = other.map((v, k) => v - n[k] * dot(other, n));
          const right = u.map((v) => v / Math.hypot(...u));
          const up = [
            n[1] * right[2] - n[2] * right[1],
            n[2] * right[0] - n[0] * right[2],
            n[0] * right[1] - n[1] * right[0],
          ];
          const lift = (x: number, y: number) => {
            const along = (cos * x - sin * y) * size * ratio;
            const across = (sin * x + cos * y) * size;
            return right.map((v, k) => v * along + up[k] * across);
          };
          const [e, f] = [lift(a, b), lift(c, d)];
          expect(triangleStretch(dot(e, e), dot(f, f), dot(e, f), [a, b, c, d])).toBeCloseTo(ratio, 5);
        },
      ),
    );
  });

  test('of a bay is the mean by area, and none where there is no area', () => {
    const stretched = quad(0, 0, 3, 1, 0, 0, 0.25, 0.25);
    const square = quad(4, 0, 1, 1, 0.5, 0.5, 0.25, 0.25);
    const model = buildModel(
      [{ name: 'a', baseColor: 'a' }],
      [
        { ...stretched, slot: 'a' },
        { ...square, slot: 'a' },
      ],
    );
    const routing = route([model], decide(), PICTURES);
    const [plots] = plotsBySheet([model], routing, decide().sheets, sizesOf(64)).plots;
    expect(plots.map((plot) => plotStretch([model], plot)).sort()).toEqual([1, expect.closeTo(3, 6)]);
    const both = {
      islands: [...plots[0].islands, ...plots[1].islands],
      shape: Float64Array.of(...plots[0].shape, ...plots[1].shape),
      shapeIsland: Uint32Array.of(0, 0, 1, 1),
      shapeTriangle: Uint32Array.of(0, 1, 0, 1),
    };
    const parts = both.islands.map((i) => i.part);
    expect(parts.sort()).toEqual([0, 1]);
    expect(plotStretch([model], both)).toBeCloseTo((3 * 3 + 1 * 1) / 4, 6);
    expect(triangleStretch(1, 1, 1, [1, 0, 0, 1])).toBeNaN();
    expect(triangleStretch(1, 1, 0, [1, 0, 2, 0])).toBeNaN();
  });
});

test('what a bay shows: the colour as it is encoded, the size of the material, and what a picture does beyond its sides', () => {
  const { document } = buildModel([{ name: 'a', baseColor: 'a' }], [{ ...quad(0, 0, 1, 1, 0, 0, 1, 1), slot: 'a' }]);
  const [material] = document.getRoot().listMaterials();
  material.setBaseColorFactor([0.5, 0, 1, 1]);
  material.getBaseColorTextureInfo()?.setWrapS(33648).setWrapT(33071);
  const model = readModel('m', document, imageKeyOfName);
  const [routed] = route([model], decide(), PICTURES).materials;
  expect(bayLook(routed, sizesOf(256, 64))).toEqual({
    colour: [expect.closeTo(0.7354, 4), 0, 1],
    opaque: true,
    picture: { width: 256, height: 64, across: 'mirror', down: 'clamp', nearest: false },
  });
  expect(routed.look.baseColor?.wrapS).toBe(Wrap.mirror);
  material.setBaseColorTexture(null).setAlphaMode('MASK');
  const [bare] = route([readModel('m', document, imageKeyOfName)], decide(), PICTURES).materials;
  expect(bayLook(bare, sizesOf(1))).toMatchObject({ opaque: false, picture: null });
});
