import { converter, formatHex } from 'culori';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { bytesOfHex, hexOf } from '../src/image/hex.ts';
import { toLab, toRgb } from '../src/image/oklab.ts';

const oklab = converter('oklab');
const rgb = converter('rgb');
const channel = fc.double({ min: 0, max: 1, noNaN: true });
const byte = fc.integer({ min: 0, max: 255 });

describe('colours', () => {
  test('OKLab is that of the colour library, and back', () => {
    fc.assert(
      fc.property(channel, channel, channel, (r, g, b) => {
        const theirs = oklab({ mode: 'rgb', r, g, b });
        const own = toLab([r, g, b]);
        [theirs.l, theirs.a, theirs.b].forEach((v, k) => {
          expect(own[k]).toBeCloseTo(v, 5);
        });
        const back = rgb(theirs);
        [back.r, back.g, back.b].forEach((v, k) => {
          expect(toRgb(own)[k]).toBeCloseTo(Math.min(1, Math.max(0, v)), 4);
        });
      }),
    );
  });

  test('hex is that of the colour library, and back', () => {
    fc.assert(
      fc.property(byte, byte, byte, (r, g, b) => {
        expect(hexOf([r, g, b])).toBe(formatHex({ mode: 'rgb', r: r / 255, g: g / 255, b: b / 255 }));
        expect(bytesOfHex(hexOf([r, g, b]))).toEqual([r, g, b]);
      }),
    );
  });
});
