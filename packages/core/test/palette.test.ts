import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { difference, type Rgb, toLab, toRgb } from '../src/image/oklab.ts';
import { gatherPalette, orderSwatches, type Painted, placeSwatches, ramp } from '../src/palette/palette.ts';
import { swatchCsv, swatchRows } from '../src/palette/table.ts';
import { runs } from './sampling.ts';

const byte = fc.integer({ min: 0, max: 255 });
const colour = fc.tuple(byte, byte, byte);
const paint = fc.record({
  colour,
  metallic: fc.constantFrom(0, 255),
  roughness: fc.constantFrom(40, 200),
  emissive: fc.constant([0, 0, 0] as [number, number, number]),
  area: fc.double({ min: 0, max: 5, noNaN: true }),
});

const flat = (c: [number, number, number], area = 1): Painted => ({
  colour: c,
  metallic: 0,
  roughness: 200,
  emissive: [0, 0, 0],
  area,
});

describe('OKLab', () => {
  test('white, black and red are where the definition puts them, and every byte comes back', () => {
    expect(toLab([1, 1, 1]).map((v) => Number(v.toFixed(4)) + 0)).toEqual([1, 0, 0]);
    expect(toLab([0, 0, 0])).toEqual([0, 0, 0]);
    const red = toLab([1, 0, 0]);
    expect(red).toEqual([expect.closeTo(0.62796, 4), expect.closeTo(0.22486, 4), expect.closeTo(0.12585, 4)]);
    fc.assert(
      fc.property(colour, (c) => {
        const rgb = c.map((v) => v / 255) as unknown as Rgb;
        expect(toRgb(toLab(rgb)).map((v) => Math.round(v * 255))).toEqual(c);
      }),
    );
  });
});

describe('gathering a palette', () => {
  test('with room for all, every paint has its own colour to the byte', () => {
    fc.assert(
      fc.property(fc.array(paint, { minLength: 1, maxLength: 40 }), (paints) => {
        const palette = gatherPalette(paints, 64);
        expect(palette.maxError).toBe(0);
        paints.forEach((x, i) => {
          const swatch = palette.swatches[palette.of[i]];
          expect([swatch.colour, swatch.metallic, swatch.roughness]).toEqual([x.colour, x.metallic, x.roughness]);
        });
        const looks = new Set(paints.map((x) => JSON.stringify([x.colour, x.metallic, x.roughness])));
        expect(palette.swatches.length).toBe(looks.size);
        const area = (list: { area: number }[]) => list.reduce((sum, x) => sum + x.area, 0);
        expect(area(palette.swatches)).toBeCloseTo(area(paints), 9);
      }),
      { numRuns: runs(60) },
    );
  });

  test('with less room the error is told as it is, and looks never mix', () => {
    fc.assert(
      fc.property(fc.array(paint, { minLength: 8, maxLength: 40 }), (paints) => {
        for (const most of [4, 8, 16, 40]) {
          const palette = gatherPalette(paints, most);
          expect(palette.swatches.length).toBeLessThanOrEqual(most);
          let worst = 0;
          paints.forEach((x, i) => {
            const swatch = palette.swatches[palette.of[i]];
            expect([swatch.metallic, swatch.roughness]).toEqual([x.metallic, x.roughness]);
            const d = (c: readonly number[]) => toLab(c.map((v) => v / 255) as unknown as Rgb);
            worst = Math.max(worst, difference(d(x.colour), d(swatch.colour)));
          });
          expect(palette.maxError).toBeCloseTo(worst, 9);
          if (most === 40) expect(palette.maxError).toBe(0);
        }
      }),
      { numRuns: runs(30) },
    );
  });

  test('two clouds of colours fall into their two swatches, weighed by area', () => {
    const red = [flat([200, 10, 10], 3), flat([204, 10, 10], 1)];
    const blue = [flat([10, 10, 200]), flat([12, 12, 204])];
    const palette = gatherPalette([...red, ...blue], 2);
    expect(palette.of[0]).toBe(palette.of[1]);
    expect(palette.of[2]).toBe(palette.of[3]);
    expect(palette.of[0]).not.toBe(palette.of[2]);
    expect(palette.swatches[palette.of[0]].colour[0]).toBe(201);
  });

  test('more looks than swatches is said', () => {
    const paints = [flat([1, 2, 3]), { ...flat([1, 2, 3]), metallic: 255 }];
    expect(() => gatherPalette(paints, 1)).toThrow(/2 looks differ .* 1 swatches are too few/);
  });
});

test('greys come first, then hues; or what is used most', () => {
  const s = ([c, area]: [[number, number, number], number]) => ({ ...flat(c, area), error: 0 });
  const list = (
    [
      [[200, 0, 0], 1],
      [[90, 90, 90], 5],
      [[0, 160, 0], 9],
      [[20, 20, 20], 2],
    ] as [[number, number, number], number][]
  ).map(s);
  const hue = orderSwatches(list, 'hue');
  expect(hue.slice(0, 2)).toEqual([3, 1]);
  expect(orderSwatches(list, 'use')).toEqual([2, 1, 3, 0]);
});

test('a ramp runs from dark to light through the colour itself, in even steps where there is room', () => {
  const light = (c: readonly number[], off = 0) =>
    toLab(c.map((v) => Math.min(255, Math.max(0, v + off)) / 255) as unknown as Rgb)[0];
  fc.assert(
    fc.property(colour, (c) => {
      const r = ramp(c, 5);
      expect(r[2]).toEqual(c);
      // Each channel is rounded by half a byte at the most; chroma is brought into sRGB to 0.001.
      for (let i = 1; i < 5; i++) expect(light(r[i], 0.5) + 0.002).toBeGreaterThanOrEqual(light(r[i - 1], -0.5));
    }),
    { numRuns: runs(1000), examples: [[[254, 250, 252]], [[0, 0, 10]], [[255, 255, 255]], [[0, 0, 0]]] },
  );
  const steps = ramp([120, 90, 70], 5).map((c) => light(c));
  for (let i = 1; i < 5; i++) expect(steps[i] - steps[i - 1]).toBeCloseTo(0.15, 2);
  expect(ramp([120, 60, 30], 1)).toEqual([[120, 60, 30]]);
});

test('swatches stand in rows on the least power of two; tables name middles in both V directions', () => {
  const { size, columns, places } = placeSwatches(17, 16);
  expect([size, columns]).toEqual([128, 8]);
  expect(placeSwatches(16, 16).size).toBe(64);
  expect(places[9]).toEqual({ x: 16, y: 16, u: 24 / 128, v: 24 / 128 });
  const rows = swatchRows([{ ...flat([255, 0, 16]), error: 0 }], places, [7]);
  expect(rows[0]).toMatchObject({ colour: '#ff0010', faces: 7, uv: [8 / 128, 8 / 128], uvUp: [8 / 128, 120 / 128] });
  expect(swatchCsv(rows).split('\n')[1].split(',')).toHaveLength(13);
  expect(() => placeSwatches(2, 8192)).toThrow(/do not fit/);
});
