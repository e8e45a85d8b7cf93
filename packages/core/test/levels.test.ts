import { buildLevels, levelCount, levelOffsets, levelSetLength, sampleLevels, Wrap } from '@wembrel/kernels/sample';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { levelSetBytes, toLevels } from '../src/image/levels.ts';
import { channelRange, meanColour, type Raster } from '../src/image/raster.ts';
import { srgbToLinear } from '../src/image/srgb.ts';
import { raster } from './bake-here.ts';
import { runs } from './sampling.ts';

const levels = (raster: Raster, encoding: 'srgb' | 'linear' | 'normal', weighted = false) =>
  toLevels(raster, encoding, weighted, true, new ArrayBuffer(levelSetBytes(raster.width, raster.height, true)));

function random(width: number, height: number, seed: number): Raster {
  let s = seed | 1;
  const data = Uint8Array.from({ length: width * height * 4 }, () => {
    s ^= s << 13;
    s ^= s >>> 17;
    s ^= s << 5;
    return s & 255;
  });
  return { width, height, bits: 8, data };
}

describe('mips', () => {
  test('of any size keep the mean of the picture, weighed by what each texel covers', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 33 }), fc.integer({ min: 1, max: 33 }), fc.integer(), (w, h, seed) => {
        const set = levels(random(w, h, seed), 'linear');
        expect(set.levels).toBe(levelCount(w, h));
        const mean = (l: number, c: number) => {
          const n = Math.max(1, w >> l) * Math.max(1, h >> l);
          let sum = 0;
          for (let i = 0; i < n; i++) sum += set.data[set.offsets[l] + i * 4 + c];
          return sum / n;
        };
        for (let l = 1; l < set.levels; l++) for (let c = 0; c < 4; c++) expect(mean(l, c)).toBeCloseTo(mean(0, c), 4);
      }),
      { numRuns: runs(60) },
    );
  });

  test('lie one behind the other without a gap', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 200 }), fc.integer({ min: 1, max: 200 }), (w, h) => {
        const n = levelCount(w, h);
        const offsets = levelOffsets(w, h, n);
        expect(offsets[0]).toBe(0);
        for (let l = 1; l < n; l++) expect(offsets[l]).toBe(levelSetLength(w, h, l));
        expect(Math.max(1, w >> (n - 1)) * Math.max(1, h >> (n - 1))).toBe(1);
      }),
    );
  });

  test('texels that nobody sees lend no colour', () => {
    const half = raster(4, (x) => (x < 2 ? [255, 0, 0, 255] : [0, 255, 0, 0]));
    const set = levels(half, 'srgb', true);
    const top = set.offsets[2];
    expect([...set.data.slice(top, top + 4)]).toEqual([1, 0, 0, 0.5]);
    const plain = levels(half, 'srgb', false);
    expect(plain.data[plain.offsets[2] + 1]).toBeCloseTo(0.5, 6);
  });

  test('of normals are means of directions, not renormalised, so that roughness can be told', () => {
    const bumps = raster(2, (x) => (x === 0 ? [255, 128, 128] : [0, 128, 128]));
    const set = levels(bumps, 'normal');
    expect(set.data[set.offsets[1]]).toBeCloseTo(0, 2);
  });
});

describe('reading a texture', () => {
  test('stays between the least and the greatest texel, wherever it is read and however it wraps', () => {
    const wrap = fc.constantFrom(Wrap.clamp, Wrap.repeat, Wrap.mirror);
    const where = fc.integer({ min: -5000, max: 5000 }).map((v) => v / 1000);
    fc.assert(
      fc.property(
        fc.integer(),
        where,
        where,
        wrap,
        wrap,
        fc.integer({ min: 0, max: 40 }),
        fc.boolean(),
        (seed, u, v, s, t, lod, near) => {
          const raster = random(7, 5, seed);
          const set = levels(raster, 'linear');
          const range = channelRange(raster);
          const out = new Float64Array(7);
          sampleLevels(set, u, v, lod / 10, s, t, near, out);
          for (let c = 0; c < 4; c++) {
            expect(out[c]).toBeGreaterThanOrEqual(range.min[c] - 1e-6);
            expect(out[c]).toBeLessThanOrEqual(range.max[c] + 1e-6);
          }
        },
      ),
      { numRuns: runs(300) },
    );
  });

  test('repeats after one tile and mirrors after two', () => {
    const set = levels(random(8, 8, 3), 'linear');
    const at = (u: number, wrap: number) => {
      const out = new Float64Array(7);
      sampleLevels(set, u, 0.3, 0, wrap, Wrap.clamp, false, out);
      return [...out.slice(0, 4)];
    };
    for (const u of [0.1, 0.37, 0.9]) {
      expect(at(u + 3, Wrap.repeat)).toEqual(at(u, Wrap.repeat).map((v) => expect.closeTo(v, 6)));
      expect(at(2 - u, Wrap.mirror)).toEqual(at(u, Wrap.mirror).map((v) => expect.closeTo(v, 6)));
      expect(at(u + 5, Wrap.clamp)).toEqual(at(1, Wrap.clamp).map((v) => expect.closeTo(v, 6)));
    }
  });

  test('at the middle of a texel gives that texel; nearest gives nothing else anywhere', () => {
    const raster = random(6, 6, 11);
    const set = levels(raster, 'linear');
    const out = new Float64Array(7);
    for (let y = 0; y < 6; y++)
      for (let x = 0; x < 6; x++) {
        sampleLevels(set, (x + 0.5) / 6, (y + 0.5) / 6, 0, Wrap.repeat, Wrap.repeat, false, out);
        expect(out[0]).toBeCloseTo(raster.data[(y * 6 + x) * 4] / 255, 5);
        sampleLevels(set, (x + 0.9) / 6, (y + 0.1) / 6, 0, Wrap.repeat, Wrap.repeat, true, out);
        expect(out[0]).toBeCloseTo(raster.data[(y * 6 + x) * 4] / 255, 5);
      }
  });

  test('between two levels blends them', () => {
    const set = levels(random(8, 8, 5), 'linear');
    const read = (lod: number) => {
      const out = new Float64Array(7);
      sampleLevels(set, 0.4, 0.6, lod, Wrap.repeat, Wrap.repeat, false, out);
      return out[1];
    };
    expect(read(1.25)).toBeCloseTo(0.75 * read(1) + 0.25 * read(2), 6);
    expect(read(-3)).toBe(read(0));
    expect(read(99)).toBe(read(3));
  });
});

test('building levels twice changes nothing', () => {
  const set = levels(random(13, 9, 2), 'srgb');
  const before = Float32Array.from(set.data);
  buildLevels(set);
  expect(set.data).toEqual(before);
});

test('the mean colour of a swatch is that of its stored texels', () => {
  expect(meanColour(raster(4, (x) => (x < 2 ? [10, 20, 30] : [30, 40, 50])))).toEqual([20, 30, 40]);
  const deep: Raster = { width: 1, height: 1, bits: 16, data: Uint16Array.of(257 * 9, 0, 65535, 65535) };
  expect(meanColour(deep).map(Math.round)).toEqual([9, 0, 255]);
});

test('colour is decoded before it is filtered', () => {
  const set = levels(
    raster(2, (x) => (x === 0 ? [0, 0, 0] : [255, 255, 255])),
    'srgb',
  );
  expect(set.data[set.offsets[1]]).toBeCloseTo(0.5, 6);
  expect(srgbToLinear(0.5)).toBeLessThan(0.25);
});
