import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { fillBeyond } from '../src/bake/fill.ts';
import { emptyMaps } from '../src/bake/sheet-maps.ts';
import { pullPush } from '../src/image/pull-push.ts';
import { runs } from './sampling.ts';

/** Fills a grey picture in place. @param known texels that have a value */
function filled(width: number, height: number, values: ArrayLike<number>, known: ArrayLike<number>): Float64Array {
  const out = Float64Array.from(values);
  pullPush({
    width,
    height,
    channels: 1,
    known: Uint8Array.from(known),
    read: (i, value) => {
      value[0] = out[i];
    },
    write: (i, value) => {
      out[i] = value[0];
    },
  });
  return out;
}

describe('pull–push', () => {
  test('known texels stay, holes lie between the least and the greatest that is known, whatever the size', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 37 }),
        fc.integer({ min: 1, max: 37 }),
        fc.infiniteStream(fc.record({ value: fc.double({ min: -4, max: 4, noNaN: true }), known: fc.boolean() })),
        (width, height, stream) => {
          const texels = Array.from({ length: width * height }, () => stream.next().value);
          const known = texels.map((texel) => Number(texel.known));
          const own = texels.filter((texel) => texel.known).map((texel) => texel.value);
          const out = filled(
            width,
            height,
            texels.map((texel) => texel.value),
            known,
          );
          for (const [i, value] of out.entries()) {
            if (known[i] || own.length === 0) expect(value).toBe(texels[i].value);
            else {
              expect(value).toBeGreaterThanOrEqual(Math.min(...own) - 1e-5);
              expect(value).toBeLessThanOrEqual(Math.max(...own) + 1e-5);
            }
          }
        },
      ),
      { numRuns: runs(150) },
    );
  });

  test('one texel in a corner fills everything; two sides meet in the middle', () => {
    const corner = Array.from({ length: 33 * 20 }, (_, i) => (i === 0 ? 0.25 : 7));
    expect(
      new Set(
        filled(
          33,
          20,
          corner,
          corner.map((value) => Number(value < 1)),
        ),
      ),
    ).toEqual(new Set([0.25]));
    const width = 64;
    const values = Array.from({ length: width }, (_, x) => (x < 4 ? 1 : 3));
    const out = filled(
      width,
      1,
      values,
      values.map((_, x) => Number(x < 4 || x >= 60)),
    );
    expect(out[32]).toBeCloseTo(2, 1);
    for (let x = 5; x < 60; x++) expect(out[x]).toBeGreaterThanOrEqual(out[x - 1] - 1e-6);
  });
});

describe('a sheet with little on it', () => {
  const SIZE = 128;
  const NEEDS = { normal: true, emissive: true, alpha: true, emissiveStrength: 1 };
  /** Maps with a square of the given bytes at (40, 40), 10 texels wide. */
  function square(texel: { baseColor: number[]; orm: number[]; normal: number[]; emissive: number[] }) {
    const maps = emptyMaps(SIZE, SIZE, NEEDS);
    const known = new Uint8Array(SIZE * SIZE);
    for (let y = 40; y < 50; y++)
      for (let x = 40; x < 50; x++) {
        const i = y * SIZE + x;
        known[i] = 1;
        for (const [map, bytes] of Object.entries(texel)) maps[map as 'orm']?.set(bytes, i * bytes.length);
      }
    return { maps, known };
  }

  test('has no background left in any map, so that every mip of a plain island is plain', () => {
    const texel = {
      baseColor: [200, 120, 40, 255],
      orm: [250, 90, 10],
      normal: [191, 128, 238],
      emissive: [9, 80, 255],
    };
    const { maps, known } = square(texel);
    for (const map of ['baseColor', 'orm', 'normal', 'emissive'] as const) {
      fillBeyond(maps, map, known);
      const bytes = texel[map];
      const data = maps[map] as Uint8Array;
      // Vectors come back from length 1, so that a byte may differ by one.
      const off = data.reduce((most, value, i) => Math.max(most, Math.abs(value - bytes[i % bytes.length])), 0);
      expect(off).toBeLessThanOrEqual(map === 'normal' ? 1 : 0);
    }
  });

  test('clear texels do not tint what lies beyond them', () => {
    const { maps, known } = square({
      baseColor: [255, 0, 0, 255],
      orm: [0, 0, 0],
      normal: [128, 128, 255],
      emissive: [0, 0, 0],
    });
    for (let y = 40; y < 50; y++) for (let x = 45; x < 50; x++) maps.baseColor.set([0, 255, 0, 0], (y * SIZE + x) * 4);
    fillBeyond(maps, 'baseColor', known);
    const far = maps.baseColor.subarray((100 * SIZE + 100) * 4, (100 * SIZE + 100) * 4 + 4);
    expect(far[0]).toBeGreaterThan(250);
    expect(far[1]).toBeLessThan(30);
    // Half of the square is clear: alpha lies between.
    expect(far[3]).toBeGreaterThan(40);
    expect(far[3]).toBeLessThan(215);
  });
});
