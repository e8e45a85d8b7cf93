import { srgbToLinear } from '@wembrel/core/image/srgb';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { texelPicture } from '../src/workers/texel-picture.ts';
import {
  fitted,
  nextScale,
  readingText,
  readTexel,
  scaledAt,
  type TexelLevel,
  texelAt,
} from '../src/workers/texel-values.ts';

const level = (width: number, height: number, ...values: number[]): TexelLevel => ({
  width,
  height,
  data: Uint8Array.from(values),
});
const ALL = { red: true, green: true, blue: true, alpha: false };
const TWO = level(2, 1, 255, 0, 128, 255, 10, 20, 30, 0);

describe('values of a texel', () => {
  test('colours are read as light, data as shares, normals as directions; alpha never changes', () => {
    expect(readTexel(TWO, 'colour', 1, 0)).toEqual({
      stored: [10, 20, 30, 0],
      linear: [10, 20, 30].map((v) => srgbToLinear(v / 255)).concat(0),
      hex: '#0a141e',
    });
    expect(readTexel(TWO, 'data', 0, 0)?.linear).toEqual([1, 0, 128 / 255, 1]);
    expect(readTexel(TWO, 'normal', 0, 0)?.linear).toEqual([1, -1, (128 / 255) * 2 - 1, 1]);
  });

  test('16 bits are read in full', () => {
    const deep = { width: 1, height: 1, data: Uint16Array.of(65535, 1, 32768, 65535) };
    expect(readTexel(deep, 'data', 0, 0)).toEqual({
      stored: [65535, 1, 32768, 65535],
      linear: [1, 1 / 65535, 32768 / 65535, 1],
      hex: '#ff0080',
    });
  });

  test('beside the picture there is none', () => {
    for (const [x, y] of [
      [-1, 0],
      [2, 0],
      [0, 1],
      [0, -1],
    ])
      expect(readTexel(TWO, 'colour', x, y)).toBeNull();
  });

  test('what is copied is one line', () => {
    const reading = readTexel(TWO, 'data', 0, 0);
    expect(reading && readingText(0, 0, reading)).toBe(
      '0, 0: #ff0080, stored 255 0 128 255, linear 1.0000 0.0000 0.5020 1.0000',
    );
  });
});

describe('what is drawn', () => {
  const drawn = (...args: Parameters<typeof texelPicture>) => [...texelPicture(...args)];

  test('stored bytes as they are, opaque whatever their alpha', () => {
    expect(drawn(TWO, 'colour', ALL, false)).toEqual([255, 0, 128, 255, 10, 20, 30, 255]);
  });

  test('one channel is grey, several keep their colours', () => {
    const only = (channel: object) => ({ red: false, green: false, blue: false, alpha: false, ...channel });
    expect(drawn(TWO, 'colour', only({ blue: true }), false)).toEqual([128, 128, 128, 255, 30, 30, 30, 255]);
    expect(drawn(TWO, 'colour', only({ alpha: true }), false)).toEqual([255, 255, 255, 255, 0, 0, 0, 255]);
    expect(drawn(TWO, 'colour', only({ red: true, blue: true }), false)).toEqual([255, 0, 128, 255, 10, 0, 30, 255]);
  });

  test('as the engine sees it: checks behind what is clear, data as light, Z that follows from X and Y', () => {
    expect(drawn(TWO, 'colour', ALL, true)).toEqual([255, 0, 128, 255, 102, 102, 102, 255]);
    expect(drawn(level(1, 1, 0, 55, 255, 255), 'data', ALL, true)).toEqual([0, 128, 255, 255]);
    const [, , z] = drawn(level(1, 1, 128, 128, 0, 255), 'normal', ALL, true);
    expect(z).toBe(255);
  });
});

describe('where it is drawn', () => {
  test('the point around which it is scaled stays over the same texel', () => {
    const scales = fc.constantFrom(1, 2, 3, 8, 32);
    fc.assert(
      fc.property(scales, scales, fc.nat(500), fc.nat(500), fc.nat(900), fc.nat(600), (from, to, x, y, px, py) => {
        const place = { x: -x, y: -y, scale: from };
        const before = [(px - place.x) / from, (py - place.y) / from];
        const after = scaledAt(place, to, [px, py]);
        // The picture stands on whole px, so it may be off by half of one.
        expect(Math.abs((px - after.x) / to - before[0])).toBeLessThanOrEqual(0.5 / to + 1e-9);
        expect(Math.abs((py - after.y) / to - before[1])).toBeLessThanOrEqual(0.5 / to + 1e-9);
      }),
    );
  });

  test('it is fitted whole and in the middle; small pictures by whole multiples', () => {
    expect(fitted({ width: 64, height: 32 }, { width: 700, height: 500 })).toEqual({ scale: 10, x: 30, y: 90 });
    expect(fitted({ width: 2048, height: 2048 }, { width: 1024, height: 600 }).scale).toBeCloseTo(600 / 2048);
  });

  test('steps go up and down through 100 % and end', () => {
    expect([0.3, 1, 7, 64].map((scale) => nextScale(scale, 1))).toEqual([0.5, 2, 8, 64]);
    expect([0.3, 1, 7, 1 / 16].map((scale) => nextScale(scale, -1))).toEqual([0.25, 0.5, 6, 1 / 16]);
  });

  test('the texel below a point', () => {
    expect(texelAt({ x: 10, y: 20, scale: 8 }, 10, 20)).toEqual([0, 0]);
    expect(texelAt({ x: 10, y: 20, scale: 8 }, 25.9, 19.9)).toEqual([1, -1]);
  });
});
