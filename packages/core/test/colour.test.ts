import { expect, test } from 'vitest';
import { toLevels } from '../src/image/levels.ts';
import { channelRange, isExactlyFlat } from '../src/image/raster.ts';
import { decodeTable, encodeByte, linearToSrgb, srgbToLinear, unitByte } from '../src/image/srgb.ts';

test('every byte survives decoding and encoding', () => {
  for (let b = 0; b < 256; b++) {
    expect(encodeByte(srgbToLinear(b / 255))).toBe(b);
    expect(encodeByte(decodeTable(8)[b])).toBe(b);
    expect(unitByte(b / 255)).toBe(b);
  }
});

test('the fast encoder rounds exactly as the formula does', () => {
  for (let i = 0; i <= 200_000; i++) {
    const v = i / 200_000;
    expect(encodeByte(v)).toBe(Math.min(255, Math.floor(255 * linearToSrgb(v) + 0.5)));
  }
  expect([encodeByte(-1), encodeByte(Number.NaN), encodeByte(7)]).toEqual([0, 0, 255]);
});

test('mips of colour are means of light, not of bytes', () => {
  const raster = { width: 2, height: 1, bits: 8 as const, data: Uint8Array.from([0, 0, 0, 255, 255, 255, 255, 255]) };
  const colour = toLevels(raster, 'srgb', false, true, new ArrayBuffer(64));
  const data = toLevels(raster, 'linear', false, true, new ArrayBuffer(64));
  expect(encodeByte(colour.data[colour.offsets[1]])).toBe(188);
  expect(unitByte(data.data[data.offsets[1]])).toBe(128);
});

test('16-bit values keep their precision', () => {
  const raster = { width: 1, height: 1, bits: 16 as const, data: Uint16Array.from([1, 32768, 65535, 65535]) };
  const set = toLevels(raster, 'linear', false, false, new ArrayBuffer(16));
  expect(set.data[0]).toBeCloseTo(1 / 65535, 9);
  expect(set.data[1]).toBeCloseTo(32768 / 65535, 7);
});

test('a picture is flat only when every texel is the same', () => {
  const flat = { width: 2, height: 1, bits: 8 as const, data: Uint8Array.from([9, 8, 7, 255, 9, 8, 7, 255]) };
  expect(isExactlyFlat(channelRange(flat))).toBe(true);
  flat.data[4] = 10;
  expect(isExactlyFlat(channelRange(flat))).toBe(false);
});
